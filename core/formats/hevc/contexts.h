// The context variables of slice data, each element's place among them (ITU-T H.265, 9.3.2.2, Tables 9-5 to
// 9-37).
#pragma once

#include <array>

#include "formats/clip/arithmetic.h"

namespace dreskel::hevc {

namespace element {
constexpr std::size_t kOffsetsMerge = 0;        // sao_merge_left_flag, sao_merge_up_flag
constexpr std::size_t kOffsetsType = 1;         // sao_type_idx_luma, _chroma
constexpr std::size_t kSplit = 2;               // split_cu_flag
constexpr std::size_t kBypass = 5;              // cu_transquant_bypass_flag
constexpr std::size_t kSkip = 6;                // cu_skip_flag
constexpr std::size_t kQpDelta = 9;             // cu_qp_delta_abs
constexpr std::size_t kPredMode = 11;           // pred_mode_flag
constexpr std::size_t kPartMode = 12;           // part_mode
constexpr std::size_t kPrevIntra = 16;          // prev_intra_luma_pred_flag
constexpr std::size_t kChromaMode = 17;         // intra_chroma_pred_mode
constexpr std::size_t kMergeFlag = 18;          // merge_flag
constexpr std::size_t kMergeIndex = 19;         // merge_idx
constexpr std::size_t kDirection = 20;          // inter_pred_idc
constexpr std::size_t kReference = 25;          // ref_idx_l0, _l1
constexpr std::size_t kVectorGreater0 = 27;     // abs_mvd_greater0_flag
constexpr std::size_t kVectorGreater1 = 28;     // abs_mvd_greater1_flag
constexpr std::size_t kPredictor = 29;          // mvp_l0_flag, _l1_flag
constexpr std::size_t kRootCoded = 30;          // rqt_root_cbf
constexpr std::size_t kSplitTransform = 31;     // split_transform_flag
constexpr std::size_t kLumaCoded = 34;          // cbf_luma
constexpr std::size_t kChromaCoded = 36;        // cbf_cb, cbf_cr
constexpr std::size_t kSkipTransform = 41;      // transform_skip_flag
constexpr std::size_t kDifferences = 43;        // explicit_rdpcm_flag
constexpr std::size_t kDifferencesAcross = 45;  // explicit_rdpcm_dir_flag
constexpr std::size_t kLastX = 47;              // last_sig_coeff_x_prefix
constexpr std::size_t kLastY = 65;              // last_sig_coeff_y_prefix
constexpr std::size_t kGroupCoded = 83;         // coded_sub_block_flag
constexpr std::size_t kSignificant = 87;        // sig_coeff_flag
constexpr std::size_t kGreater1 = 131;          // coeff_abs_level_greater1_flag
constexpr std::size_t kGreater2 = 155;          // coeff_abs_level_greater2_flag
constexpr std::size_t kScale = 161;             // log2_res_scale_abs_plus1
constexpr std::size_t kScaleSign = 169;         // res_scale_sign_flag
constexpr std::size_t kOffsetCoded = 171;       // cu_chroma_qp_offset_flag
constexpr std::size_t kOffsetIndex = 172;       // cu_chroma_qp_offset_idx
constexpr std::size_t kCount = 173;
}  // namespace element

using Contexts = std::array<Context, element::kCount>;

// `initType` as in 9.3.2.2: 0 for I slices, 1 and 2 for the others.
Contexts initialContexts(unsigned initType, int qp);

}  // namespace dreskel::hevc
