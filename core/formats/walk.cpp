#include "formats/walk.h"

#include <algorithm>

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

void Walk::breakOff(const std::string& why, std::uint64_t at) {
    goAstray(why, at);
    over_ = true;
}

void Walk::goAstray(const std::string& why, std::uint64_t at) {
    wrongAt_ = at;
    damage(why + ", at byte " + grouped(position_));
}

void Walk::closeRun(std::uint64_t record, Bytes rest) {
    constexpr std::uint64_t border = 4096, sector = 512, mark = 4;
    const auto beyond = position_ % border;
    const auto slack = slice(rest, 0, sector - position_ % sector);
    // Fewer bytes than a mark has may be the beginning of one.
    const bool blank = beyond > 0 && slack.size() >= mark &&
                       std::all_of(slack.begin(), slack.end(), [](auto b) { return b == 0; });
    // The mark of the next record may lie across the border and be unreadable.
    if (!blank && (beyond < record || border - beyond < mark))
        damage("it ends where a cluster does: it may go on elsewhere");
    close();
}

void Walk::damage(const std::string& why, std::uint64_t rightUpTo) {
    if (!why_.empty()) return;
    why_ = why;
    rightUpTo_ = rightUpTo;
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
    result.samples = samples();
    return result;
}

}  // namespace dreskel
