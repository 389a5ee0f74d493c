#include "formats/clip/picture_trail.h"

#include <algorithm>
#include <vector>

#include "formats/avc/stream_check.h"
#include "formats/clip/last_bytes.h"
#include "formats/hevc/stream_check.h"

namespace dreskel {
namespace {

template <class Check>
class SlicedTrail : public PictureTrail {
  public:
    SlicedTrail(Bytes settings, std::size_t lengthSize) : start_(settings), lengthSize_(lengthSize) {}

    Outcome follow(Bytes sample) override {
        const auto before = last_.size();
        const auto same = last_.replace(sample);
        if (!units_.empty() && same == sample.size() && same == before) return outcome_;
        outcome_ = followFrom(sample, same);
        return outcome_;
    }

  private:
    struct Unit {
        std::size_t at = 0;  // where its length begins
        Check before;        // what was known in front of it
        typename Check::Stops stops;
    };

    Outcome followFrom(Bytes sample, std::size_t same) {
        // Checks share their blocks: only following a unit sets them to what they were in front of it.
        const auto begins = [&](const Unit& unit) { return unit.at <= same && unit.at < sample.size(); };
        while (!units_.empty() && !begins(units_.back())) units_.pop_back();
        if (units_.empty()) units_.push_back({0, start_, {}});
        auto check = units_.back().before;
        for (auto at = units_.back().at; at < sample.size();) {
            if (at > units_.back().at) units_.push_back({at, check, {}});
            const auto unit = unitAt(sample, at, lengthSize_);
            if (unit.empty()) {
                units_.back().stops.slice = {};
                return {PictureFault{at, "the units of a picture do not fill it"}, check.pictures()};
            }
            const auto from = at + lengthSize_;
            if (auto fault = check.unit(unit, units_.back().stops, same - std::min(same, from))) {
                fault->byte += from;
                return {fault, check.pictures()};
            }
            at = from + unit.size();
        }
        auto fault = check.endPicture();
        if (fault) fault->byte = sample.size();
        return {fault, check.pictures()};
    }

    Check start_;
    std::size_t lengthSize_;
    LastBytes last_;
    std::vector<Unit> units_;  // of the sample, as far as it was followed the last time
    Outcome outcome_;
};

}  // namespace

std::unique_ptr<PictureTrail> pictureTrail(PictureCoding coding, Bytes settings, std::size_t lengthSize) {
    if (coding == PictureCoding::Avc)
        return std::make_unique<SlicedTrail<avc::StreamCheck>>(settings, lengthSize);
    return std::make_unique<SlicedTrail<hevc::StreamCheck>>(settings, lengthSize);
}

}  // namespace dreskel
