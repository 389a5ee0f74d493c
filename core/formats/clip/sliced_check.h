// What following the pictures of H.264 and of HEVC has in common: sets are learnt, slices are followed one
// after the other, and a picture must be there as a whole.
//
// A coding tells the rest:
//   kHeader                          bytes of a unit's header; the bit behind it says that a picture begins
//   Sets                             learn(unit), picture(number), sequence(number)
//   Head                             of a slice: pictureSet
//   Data                             isFor(sequence, picture, head), begin(), slice(head, body, stops),
//                                    complete(), between(), goBackTo(it); Stops: SliceStops of its states
//   isSlice(unit), readHead(unit, body, sets, the slice before), passesOver(head)
#pragma once

#include <memory>
#include <optional>
#include <utility>

#include "formats/clip/nal_bits.h"
#include "formats/clip/picture_check.h"
#include "formats/clip/unescaped.h"

namespace dreskel {

// Copies share what is known of the blocks of the picture in hand.
template <class Coding>
class SlicedCheck : public PictureCheck {
  public:
    // Where following a unit can be taken up again.
    struct Stops {
        std::optional<typename Coding::Data::Between> before;  // in the picture, in front of the unit
        typename Coding::Data::Stops slice;
        std::shared_ptr<typename Coding::Data> data;
    };

    std::optional<PictureFault> unit(Bytes unit) override { return follow(unit, nullptr, 0); }
    // The same. `stops`: of the last time, when this had seen the same before; the first `same` bytes of the
    // unit are what they were then.
    std::optional<PictureFault> unit(Bytes unit, Stops& stops, std::size_t same) {
        return follow(unit, &stops, same);
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

    std::optional<PictureFault> follow(Bytes unit, Stops* stops, std::size_t same) {
        typename Coding::Data::Stops left;
        if (stops != nullptr) {
            left = std::exchange(stops->slice, {});
            if (data_ && !stops->before) stops->before = data_->between();
            if (data_) data_->goBackTo(*stops->before);
        }
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
        Unescaped body(unit, Coding::kHeader);
        body.trim();
        const auto head = Coding::readHead(unit, body.bytes(), sets_, head_);
        if (head && Coding::passesOver(*head)) return before;
        // What is not known cannot be judged; what was known a slice ago can.
        if (!head) {
            const bool known = std::exchange(inPicture_, false);
            return known ? std::optional(PictureFault{Coding::kHeader, "a slice's head is damaged"}) : before;
        }
        left.backTo(body.before(same));
        if (stops != nullptr && left.last() != nullptr) {
            stops->slice = std::move(left);
            data_ = stops->data;
            inPicture_ = true;
        } else if (first && !beginPicture(*head, stops != nullptr)) {
            return before;
        }
        head_ = head;
        if (stops != nullptr) stops->data = data_;
        auto fault = data_->slice(*head, body.bytes(), stops == nullptr ? nullptr : &stops->slice);
        if (fault) {
            fault->byte = body.place(fault->byte);
            inPicture_ = false;
        }
        return before ? before : fault;
    }

    // `apart`: its blocks take nothing from those that are known already, which may be gone back to.
    bool beginPicture(const typename Coding::Head& head, bool apart) {
        auto picture = sets_.picture(head.pictureSet);
        auto sequence = sets_.sequence(picture->sequence);
        if (apart || !data_ || !data_->isFor(sequence.get(), picture.get(), head)) {
            if (++changes_ > kMostChanges) return false;
            data_ = std::make_shared<typename Coding::Data>(std::move(sequence), std::move(picture), head);
        }
        data_->begin();
        inPicture_ = true;
        return true;
    }

    typename Coding::Sets sets_;
    std::shared_ptr<typename Coding::Data> data_;
    std::optional<typename Coding::Head> head_;
    bool inPicture_ = false;
    int changes_ = 0;
};

}  // namespace dreskel
