// Of a file that is only partly there, a version that opens everywhere: a photo with what is lost plainly
// marked, a clip that plays through its gaps, a recording that says how long it is. Never in place of the
// file itself; beside it.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/control.h"
#include "base/result.h"
#include "job/finding.h"
#include "media/decoder_process.h"
#include "source/card_view.h"

namespace dreskel {

struct Version {
    std::vector<Piece> pieces;
    std::string called;     // put behind the file's own name, in words
    std::string extension;  // with its point; empty: the file's own
    std::string made;       // what was done, for the manifest and the report
};

class VersionMaker {
  public:
    // Both must outlive it.
    VersionMaker(std::shared_ptr<Source> source, CardView& card) : card_(card), decoder_(std::move(source)) {}

    // Whether there is something to be made of it at all.
    static bool fits(const Finding& finding);
    // Blocks; decodes the file. Nothing when it opens as it is. Fault::Failed with the reason when nothing
    // that opens can be made.
    Result<std::optional<Version>> of(const Finding& finding, Control& control);

  private:
    Result<Version> ofPhoto(const Finding& finding, Control& control);
    Result<Version> ofClip(const Finding& finding, Control& control);
    Result<Version> ofMatroska(const Finding& finding, Control& control);
    Result<Version> ofAvi(const Finding& finding);
    Result<std::optional<Version>> ofWav(const Finding& finding);

    CardView& card_;
    media::DecoderProcess decoder_;
};

}  // namespace dreskel
