#include "formats/walk.h"

#include "base/words.h"

namespace dreskel {

std::optional<Measure::Want> Walk::want() const {
    if (over_) return std::nullopt;
    return Want{position_, portion_};
}

void Walk::give(Bytes bytes) {
    const auto before = position_;
    const auto asked = portion_;
    const bool last = bytes.size() < asked;
    if (bytes.empty() && accepted_ && mayEnd()) return close();
    if (bytes.empty()) {
        breakOff("the card ends before the file does");
        return;
    }
    visit(bytes, last);
    if (!over_ && position_ == before && portion_ == asked)
        breakOff(last ? "the card ends before the file does" : "what follows is not of this file");
}

bool Walk::giveSome(Bytes bytes) {
    if (!takesAny() || bytes.empty()) return false;
    visit(bytes, false);
    return true;
}

void Walk::advance(std::uint64_t count) {
    const auto next = checkedAdd(position_, count);
    if (next) {
        position_ = *next;
    } else {
        breakOff("it states an impossible length");
    }
}

void Walk::breakOff(const std::string& why) {
    over_ = true;
    damage(why + ", at byte " + grouped(position_));
}

void Walk::damage(const std::string& why) {
    if (why_.empty()) why_ = why;
}

Measured Walk::finish() {
    Measured result;
    if (!accepted_) return result;
    result.accepted = true;
    result.length = result.proven = position_;
    result.needsDecoder = true;
    if (!closed_ || !why_.empty()) {
        result.condition = Condition::Partial;
        result.why = why_;
    }
    describe(result);
    return result;
}

}  // namespace dreskel
