// What following the pictures of H.264 and of HEVC has in common: sets are learnt, slices are followed one
// after the other, and a picture must be there as a whole.
//
// A coding tells the rest:
//   kHeader                          bytes of a unit's header; the bit behind it says that a picture begins
//   Sets                             learn(unit), picture(number), sequence(number)
//   Head                             of a slice: pictureSet
//   Data                             isFor(sequence, picture, head), begin(), slice(head, body), complete()
//   isSlice(unit), readHead(unit, body, sets, the slice before), passesOver(head)
#pragma once

#include <memory>
#include <optional>
#include <utility>

#include "formats/clip/nal_bits.h"
#include "formats/clip/picture_check.h"

namespace dreskel {

template <class Coding>
class SlicedCheck : public PictureCheck {
  public:
    std::optional<PictureFault> unit(Bytes unit) override {
        if (unit.size() <= Coding::kHeader) return std::nullopt;
        sets_.learn(unit);
        if (!Coding::isSlice(unit)) return std::nullopt;
        const bool first = (unit[Coding::kHeader] & 0x80) != 0;
        std::optional<PictureFault> before;
        if (first) {
            before = endPicture();
            head_.reset();
        } else if (!inPicture_) {
            return std::nullopt;
        }
        auto body = unescaped(unit, Coding::kHeader);
        while (!body.empty() && body.back() == 0) body.pop_back();  // cabac_zero_words
        const auto head = Coding::readHead(unit, body, sets_, head_);
        if (head && Coding::passesOver(*head)) return before;
        // What is not known cannot be judged; what was known a slice ago can.
        if (!head) {
            const bool known = std::exchange(inPicture_, false);
            return known ? std::optional(PictureFault{Coding::kHeader, "a slice's head is damaged"}) : before;
        }
        if (first && !beginPicture(*head)) return before;
        head_ = head;
        auto fault = data_->slice(*head, body);
        if (fault) {
            fault->byte = escapedPlace(unit, Coding::kHeader, fault->byte);
            inPicture_ = false;
        }
        return before ? before : fault;
    }

    std::optional<PictureFault> endPicture() override {
        if (!std::exchange(inPicture_, false)) return std::nullopt;
        followed();
        if (data_->complete()) return std::nullopt;
        return PictureFault{0, "a part of the picture is missing"};
    }

  protected:
    void learn(Bytes unit) { sets_.learn(unit); }

  private:
    static constexpr int kMostChanges = 1000;  // of a stream's sets; then it is followed no further

    bool beginPicture(const typename Coding::Head& head) {
        auto picture = sets_.picture(head.pictureSet);
        auto sequence = sets_.sequence(picture->sequence);
        if (!data_ || !data_->isFor(sequence.get(), picture.get(), head)) {
            if (++changes_ > kMostChanges) return false;
            data_ = std::make_unique<typename Coding::Data>(std::move(sequence), std::move(picture), head);
        }
        data_->begin();
        inPicture_ = true;
        return true;
    }

    typename Coding::Sets sets_;
    std::unique_ptr<typename Coding::Data> data_;
    std::optional<typename Coding::Head> head_;
    bool inPicture_ = false;
    int changes_ = 0;
};

}  // namespace dreskel
