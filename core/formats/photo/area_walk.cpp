#include "formats/photo/area_walk.h"

#include <algorithm>

#include "base/words.h"

namespace dreskel {
namespace {

constexpr std::size_t kMostMedia = 1000;
constexpr std::size_t kAreaPortion = 64 * 1024;

}  // namespace

void AreaWalk::start(std::shared_ptr<const Areas> areas) {
    areas_ = std::move(areas);
    begin();
}

std::optional<Measure::Want> AreaWalk::want() const {
    const auto* area = inHand();
    if (area == nullptr || !why_.empty()) return std::nullopt;
    const auto most = taken_ == area->range.offset ? AreaCheck::kFirst : kAreaPortion;
    const auto left = area->range.end() - taken_;
    return Measure::Want{taken_, static_cast<std::size_t>(std::min<std::uint64_t>(most, left))};
}

void AreaWalk::give(Bytes bytes) {
    if (bytes.size() < want()->length) return wrong("the card ends before the file does");
    take(bytes);
}

// Of data whose coding says nothing only the end is looked for.
void AreaWalk::begin() {
    if (const auto* area = inHand())
        taken_ = area->coding == Area::Coding::Unknown ? area->range.end() - 1 : area->range.offset;
}

bool AreaWalk::giveSome(Bytes bytes) {
    const auto* area = inHand();
    if (area == nullptr || bytes.empty()) return false;
    if (taken_ == area->range.offset && !AreaCheck::tells(area->coding, bytes)) return false;
    take(bytes);
    return true;
}

void AreaWalk::lookClosely(bool closely) {
    closely_ = closely;
    if (check_) check_->lookClosely(closely);
}

void AreaWalk::take(Bytes bytes) {
    const auto& area = *inHand();
    if (!check_) {
        check_.emplace(area);
        check_->lookClosely(closely_);
    }
    taken_ += bytes.size();
    const bool last = taken_ == area.range.end();
    check_->give(bytes, last);
    position_ = last && check_->why().empty() ? area.range.end() : area.range.offset + check_->taken();
    if (!check_->why().empty()) return wrong(check_->why());
    if (!last) return;
    check_.reset();
    ++next_;
    begin();
}

void AreaWalk::wrong(const std::string& why) {
    why_ = why + ", at byte " + grouped(position_);
}

std::uint64_t AreaWalk::proven() const {
    const bool nothingOfIt = inHand() == nullptr || position_ == inHand()->range.offset;
    if (!nothingOfIt) return position_;
    return next_ > 0 ? (*areas_)[next_ - 1].range.end() : 0;
}

void AreaWalk::describe(Measured& into) const {
    if (!areas_) return;
    for (const auto& area : *areas_) {
        // What begins further in than the data is not of this file; a preview may hold a smaller one.
        const auto& range = area.range;
        if (area.coding == Area::Coding::Preview) {
            if (into.enclosed.size() < kMostMedia) into.enclosed.push_back(range);
        } else if (range.length > 1 && into.mediaData.size() < kMostMedia)
            into.mediaData.push_back({range.offset + 1, range.length - 1});
    }
    if (why_.empty()) return;
    into.condition = Condition::Partial;
    into.why = why_;
    into.proven = std::min(proven(), into.length);
}

}  // namespace dreskel
