// What is read of the parameter sets and slice heads of H.264 and HEVC, element by element against another
// program's reading of the same streams.
#include <algorithm>
#include <optional>
#include <QDir>
#include <QTest>

#include "formats/avc/slice_head.h"
#include "formats/clip/unescaped.h"
#include "formats/hevc/slice_head.h"
#include "tests/support/support.h"
#include "tests/support/units.h"

using namespace dreskel;
using namespace dreskel::test;

namespace {

enum class Part { Sequence, Picture, Slice };

// A set or a head as the other program tells it: its elements by name, and its last bit.
struct Told {
    Part part = Part::Sequence;
    std::map<QByteArray, qint64> elements;
    qint64 end = 0;  // bits, from the unit's header on

    qint64 of(const char* name, qint64 otherwise = 0) const {
        const auto found = elements.find(name);
        return found == elements.end() ? otherwise : found->second;
    }
    bool set(const char* name) const { return of(name) != 0; }
};

std::optional<Part> partNamed(const QByteArray& words) {
    if (words == "Sequence Parameter Set") return Part::Sequence;
    if (words == "Picture Parameter Set") return Part::Picture;
    if (words == "Slice Header" || words == "Slice Segment Header") return Part::Slice;
    return std::nullopt;
}

// Lines are "[trace_headers @ 0x1] 33    chroma_format_idc     010 = 1"; what else the stream holds has
// headings of its own. In front of the first packet everything is told once in advance.
std::vector<Told> toldOf(const QString& path) {
    const auto run =
        command(QStringLiteral("ffmpeg"), {"-hide_banner", "-v", "info", "-i", path, "-c", "copy", "-bsf:v",
                                           "trace_headers", "-f", "null", "-"});
    std::vector<Told> all;
    bool inPackets = false, wanted = false;
    for (const auto& line : run.err.split('\n')) {
        if (!line.startsWith("[trace_headers")) continue;
        const auto words = line.mid(line.indexOf(']') + 1).trimmed();
        if (words.startsWith("Packet:")) inPackets = true;
        const auto equals = words.lastIndexOf(" = ");
        if (equals < 0) {
            const auto part = partNamed(words);
            wanted = part && inPackets;
            if (wanted) all.push_back({*part, {}, 0});
            continue;
        }
        if (!wanted) continue;
        const auto columns = words.first(equals).simplified().split(' ');
        all.back().elements.emplace(columns[1], words.mid(equals + 3).toLongLong());
        all.back().end = columns[0].toLongLong() + columns.value(2).size();
    }
    return all;
}

std::optional<Part> partOf(bool hevc, Bytes unit) {
    const unsigned type = hevc ? unit[0] >> 1 & 63U : unit[0] & 31U;
    if (type == (hevc ? 33U : 7U)) return Part::Sequence;
    if (type == (hevc ? 34U : 8U)) return Part::Picture;
    const bool slice = hevc ? type <= 9 || (type >= 16 && type <= 21) : type == 1 || type == 5;
    return slice ? std::optional(Part::Slice) : std::nullopt;
}

#define SAME(ours, theirs) QCOMPARE(static_cast<qint64>(ours), static_cast<qint64>(theirs))

}  // namespace

class TestParameterSets : public QObject {
    Q_OBJECT

    static void compare(const avc::Sequence& ours, const Told& told) {
        SAME(ours.chroma, told.of("chroma_format_idc", 1));
        SAME(ours.lumaDepth, told.of("bit_depth_luma_minus8") + 8);
        SAME(ours.chromaDepth, told.of("bit_depth_chroma_minus8") + 8);
        SAME(ours.frameBits, told.of("log2_max_frame_num_minus4") + 4);
        SAME(ours.orderType, told.of("pic_order_cnt_type"));
        if (ours.orderType == 0) SAME(ours.orderBits, told.of("log2_max_pic_order_cnt_lsb_minus4") + 4);
        SAME(ours.orderAlwaysZero, told.set("delta_pic_order_always_zero_flag"));
        SAME(ours.wide, told.of("pic_width_in_mbs_minus1") + 1);
        SAME(ours.framesOnly, told.set("frame_mbs_only_flag"));
        SAME(ours.high, (told.of("pic_height_in_map_units_minus1") + 1) * (ours.framesOnly ? 1 : 2));
        SAME(ours.adaptive, told.set("mb_adaptive_frame_field_flag"));
        SAME(ours.direct8, told.set("direct_8x8_inference_flag"));
    }
    static void compare(const avc::PictureSet& ours, const Told& told) {
        SAME(ours.sequence, told.of("seq_parameter_set_id"));
        SAME(ours.arithmetic, told.set("entropy_coding_mode_flag"));
        SAME(ours.orderPresent, told.set("bottom_field_pic_order_in_frame_present_flag"));
        SAME(ours.weighted, told.set("weighted_pred_flag"));
        SAME(ours.deblockingControl, told.set("deblocking_filter_control_present_flag"));
        SAME(ours.redundant, told.set("redundant_pic_cnt_present_flag"));
        SAME(ours.transform8, told.set("transform_8x8_mode_flag"));
        SAME(ours.biWeighted, told.of("weighted_bipred_idc"));
        SAME(ours.references[0], told.of("num_ref_idx_l0_default_active_minus1") + 1);
        SAME(ours.references[1], told.of("num_ref_idx_l1_default_active_minus1") + 1);
        SAME(ours.qp, told.of("pic_init_qp_minus26") + 26);
    }
    static void compare(const avc::SliceHead& ours, const Told& told, const avc::PictureSet& set) {
        SAME(ours.first, told.of("first_mb_in_slice") * (ours.adaptive ? 2 : 1));  // in pairs
        SAME(ours.pictureSet, told.of("pic_parameter_set_id"));
        SAME(ours.type, told.of("slice_type") % 5);
        SAME(ours.field, told.set("field_pic_flag"));
        SAME(ours.redundant, told.set("redundant_pic_cnt"));
        SAME(ours.qp, set.qp + told.of("slice_qp_delta"));
        SAME(ours.initNumber.value_or(0), told.of("cabac_init_idc"));
        const bool overridden = told.set("num_ref_idx_active_override_flag");
        const auto lists = ours.type == avc::SliceType::B ? 2U : ours.type == avc::SliceType::P ? 1U : 0U;
        for (std::size_t list = 0; list < lists; ++list) {
            const auto* name = list == 0 ? "num_ref_idx_l0_active_minus1" : "num_ref_idx_l1_active_minus1";
            SAME(ours.references[list], overridden ? told.of(name) + 1 : set.references[list]);
        }
        SAME(ours.dataAt, told.end - 8);
    }
    static void compare(const hevc::Sequence& ours, const Told& told) {
        SAME(ours.chroma, told.of("chroma_format_idc"));
        SAME(ours.separatePlanes, told.set("separate_colour_plane_flag"));
        SAME(ours.width, told.of("pic_width_in_luma_samples"));
        SAME(ours.height, told.of("pic_height_in_luma_samples"));
        SAME(ours.lumaDepth, told.of("bit_depth_luma_minus8") + 8);
        SAME(ours.chromaDepth, told.of("bit_depth_chroma_minus8") + 8);
        SAME(ours.orderBits, told.of("log2_max_pic_order_cnt_lsb_minus4") + 4);
        SAME(ours.minBlock, told.of("log2_min_luma_coding_block_size_minus3") + 3);
        SAME(ours.treeBlock - ours.minBlock, told.of("log2_diff_max_min_luma_coding_block_size"));
        SAME(ours.minTransform, told.of("log2_min_luma_transform_block_size_minus2") + 2);
        SAME(ours.maxTransform - ours.minTransform, told.of("log2_diff_max_min_luma_transform_block_size"));
        SAME(ours.interDepth, told.of("max_transform_hierarchy_depth_inter"));
        SAME(ours.intraDepth, told.of("max_transform_hierarchy_depth_intra"));
        SAME(ours.asymmetric, told.set("amp_enabled_flag"));
        SAME(ours.sampleOffsets, told.set("sample_adaptive_offset_enabled_flag"));
        SAME(ours.plain, told.set("pcm_enabled_flag"));
        SAME(ours.longTerm, told.set("long_term_ref_pics_present_flag"));
        SAME(ours.temporalVectors, told.set("sps_temporal_mvp_enabled_flag"));
        SAME(ours.referenceSets.size(), told.of("num_short_term_ref_pic_sets"));
        SAME(ours.skipContext, told.set("transform_skip_context_enabled_flag"));
        SAME(ours.implicitDifferences, told.set("implicit_rdpcm_enabled_flag"));
        SAME(ours.explicitDifferences, told.set("explicit_rdpcm_enabled_flag"));
        SAME(ours.persistentRice, told.set("persistent_rice_adaptation_enabled_flag"));
    }
    static void compare(const hevc::PictureSet& ours, const Told& told) {
        SAME(ours.sequence, told.of("pps_seq_parameter_set_id"));
        SAME(ours.dependentSlices, told.set("dependent_slice_segments_enabled_flag"));
        SAME(ours.outputFlag, told.set("output_flag_present_flag"));
        SAME(ours.extraBits, told.of("num_extra_slice_header_bits"));
        SAME(ours.signHiding, told.set("sign_data_hiding_enabled_flag"));
        SAME(ours.cabacInit, told.set("cabac_init_present_flag"));
        SAME(ours.references[0], told.of("num_ref_idx_l0_default_active_minus1") + 1);
        SAME(ours.references[1], told.of("num_ref_idx_l1_default_active_minus1") + 1);
        SAME(ours.qp, told.of("init_qp_minus26") + 26);
        SAME(ours.transformSkip, told.set("transform_skip_enabled_flag"));
        SAME(ours.qpDelta, told.set("cu_qp_delta_enabled_flag"));
        SAME(ours.qpDeltaDepth, told.of("diff_cu_qp_delta_depth"));
        SAME(ours.chromaOffsets, told.set("pps_slice_chroma_qp_offsets_present_flag"));
        SAME(ours.weighted, told.set("weighted_pred_flag"));
        SAME(ours.biWeighted, told.set("weighted_bipred_flag"));
        SAME(ours.bypass, told.set("transquant_bypass_enabled_flag"));
        SAME(ours.tiles, told.set("tiles_enabled_flag"));
        SAME(ours.rowsAlone, told.set("entropy_coding_sync_enabled_flag"));
        SAME(ours.acrossSlices, told.set("pps_loop_filter_across_slices_enabled_flag"));
        SAME(ours.deblockingControl, told.set("deblocking_filter_control_present_flag"));
        SAME(ours.deblockingOverride, told.set("deblocking_filter_override_enabled_flag"));
        SAME(ours.deblockingOff, told.set("pps_deblocking_filter_disabled_flag"));
        SAME(ours.listsModified, told.set("lists_modification_present_flag"));
        SAME(ours.headExtension, told.set("slice_segment_header_extension_present_flag"));
    }
    static void compare(const hevc::SliceHead& ours, const Told& told, const hevc::PictureSet& set) {
        SAME(ours.first, told.set("first_slice_segment_in_pic_flag"));
        SAME(ours.dependent, told.set("dependent_slice_segment_flag"));
        SAME(ours.address, told.of("slice_segment_address"));
        SAME(ours.pictureSet, told.of("slice_pic_parameter_set_id"));
        SAME(ours.dataAt, (told.end + 7) / 8 - 2);
        if (ours.dependent) return;
        SAME(ours.type, told.of("slice_type"));
        SAME(ours.lumaOffsets, told.set("slice_sao_luma_flag"));
        SAME(ours.chromaOffsets, told.set("slice_sao_chroma_flag"));
        SAME(ours.cabacInit, told.set("cabac_init_flag"));
        SAME(ours.noSecondDifference, told.set("mvd_l1_zero_flag"));
        SAME(ours.qp, set.qp + told.of("slice_qp_delta"));
        if (ours.type == hevc::SliceType::I) return;
        SAME(ours.mergeCandidates, 5 - told.of("five_minus_max_num_merge_cand"));
        const bool overridden = told.set("num_ref_idx_active_override_flag");
        for (std::size_t list = 0; list < (ours.type == hevc::SliceType::B ? 2U : 1U); ++list) {
            const auto* name = list == 0 ? "num_ref_idx_l0_active_minus1" : "num_ref_idx_l1_active_minus1";
            SAME(ours.references[list], overridden ? told.of(name) + 1 : set.references[list]);
        }
    }
    static void compareAvc(const std::vector<Bytes>& units, const std::vector<Told>& all) {
        avc::ParameterSets sets;
        for (std::size_t i = 0; i < all.size() && !QTest::currentTestFailed(); ++i) {
            const auto& told = all[i];
            sets.learn(units[i]);
            if (told.part == Part::Sequence) {
                const auto ours = sets.sequence(static_cast<std::uint32_t>(told.of("seq_parameter_set_id")));
                QVERIFY(ours);
                compare(*ours, told);
            } else if (told.part == Part::Picture) {
                const auto ours = sets.picture(static_cast<std::uint32_t>(told.of("pic_parameter_set_id")));
                QVERIFY(ours);
                compare(*ours, told);
            } else {
                const Unescaped body(units[i], 1);
                const auto ours = avc::readSliceHead(units[i][0], body.bytes(), sets);
                QVERIFY(ours);
                compare(*ours, told, *sets.picture(ours->pictureSet));
            }
        }
    }
    static void compareHevc(const std::vector<Bytes>& units, const std::vector<Told>& all) {
        hevc::ParameterSets sets;
        std::optional<hevc::SliceHead> before;
        for (std::size_t i = 0; i < all.size() && !QTest::currentTestFailed(); ++i) {
            const auto& told = all[i];
            sets.learn(units[i]);
            if (told.part == Part::Sequence) {
                const auto ours =
                    sets.sequence(static_cast<std::uint32_t>(told.of("sps_seq_parameter_set_id")));
                QVERIFY(ours);
                compare(*ours, told);
            } else if (told.part == Part::Picture) {
                const auto ours =
                    sets.picture(static_cast<std::uint32_t>(told.of("pps_pic_parameter_set_id")));
                QVERIFY(ours);
                compare(*ours, told);
            } else {
                const Unescaped body(units[i], 2);
                const auto ours = hevc::readSliceHead(units[i][0] >> 1 & 63U, body.bytes(), sets, before);
                QVERIFY(ours);
                compare(*ours, told, *sets.picture(ours->pictureSet));
                before = ours;
            }
        }
    }

  private Q_SLOTS:
    void allIsReadAsAnotherReadsIt_data() {
        QTest::addColumn<QString>("name");
        const QDir folder(QStringLiteral(DRESKEL_FIXTURES "/structures"));
        auto names = folder.entryList({QStringLiteral("pictures-*")});
        QVERIFY(names.size() > 12);
        names.removeIf([](const QString& name) { return name.contains(QStringLiteral("unfollowed")); });
        for (const auto& name : names) QTest::newRow(qPrintable(name)) << name;
    }
    void allIsReadAsAnotherReadsIt() {
        QFETCH(QString, name);
        const bool hevc = name.endsWith(QStringLiteral("hevc"));
        const auto stream = mediaFile(name);
        auto units = unitsOf(stream);
        std::erase_if(units, [&](Bytes unit) { return !partOf(hevc, unit); });
        const auto all = toldOf(QStringLiteral(DRESKEL_FIXTURES "/structures/") + name);
        QCOMPARE(units.size(), all.size());
        QVERIFY(all.size() >= 14);
        for (std::size_t i = 0; i < all.size(); ++i) QVERIFY(partOf(hevc, units[i]) == all[i].part);
        if (hevc)
            compareHevc(units, all);
        else
            compareAvc(units, all);
    }
};

QTEST_GUILESS_MAIN(TestParameterSets)
#include "test_parameter_sets.moc"
