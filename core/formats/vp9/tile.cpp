#include "formats/vp9/tile.h"

#include "formats/vp9/coefficients.h"
#include "formats/vp9/tables.h"

namespace dreskel::vp9 {
namespace {

enum Division : std::size_t { kWhole, kAboveAndBelow, kSideBySide, kQuarters };

// 9.3.1: how a block's samples are transformed goes with how they are foretold.
ScanKind scanFor(std::uint8_t mode) {
    constexpr std::array<ScanKind, 10> kinds{
        ScanKind::Both, ScanKind::Rows,    ScanKind::Columns, ScanKind::Both, ScanKind::Both,
        ScanKind::Rows, ScanKind::Columns, ScanKind::Columns, ScanKind::Rows, ScanKind::Both};
    return kinds[mode];
}

}  // namespace

Edge::Edge(const Size& size) : divisions(std::size_t{size.wideColumns()} * 8) {
    for (auto& plane : coefficients) plane.resize(std::size_t{size.wideColumns()} * 16);
}

Tile::Tile(Bytes bytes, const TileBounds& bounds, const Picture& picture, Edge& above)
    : bits_(bytes),
      bounds_(bounds),
      picture_(picture),
      chances_(picture.chances),
      counts_(picture.counts),
      field_(picture.field),
      above_(above),
      pairs_(picture.head.turned),
      around_{picture.field, picture.before, bounds.firstColumn, bounds.endColumn, picture.head.turned} {}

std::size_t Tile::readDivision(Place place, BlockSize size) {
    const std::uint32_t level = kWidths[size] - 1U;  // from eight pixels on
    const std::uint32_t half = 1U << level >> 1;
    const auto bit = 3 - level;
    const auto context = level * 4 + (leftDivisions_[place.row % kWide] >> bit & 1U) * 2 +
                         (above_.divisions[place.column] >> bit & 1U);
    const auto& chances = (picture_.head.inter() ? chances_.partitions : kKeyPartitions)[context];
    const bool below = place.row + half < field_.rows(), beside = place.column + half < field_.columns();
    std::size_t division = kQuarters;
    if (below && beside) {
        division = readTree(bits_, kFourTree, chances.data());
    } else if (beside) {
        division = bits_.bit(chances[1]) ? kQuarters : kAboveAndBelow;
    } else if (below) {
        division = bits_.bit(chances[2]) ? kQuarters : kSideBySide;
    }
    ++counts_.partitions[context][division];
    return division;
}

void Tile::divide(Place place, BlockSize size) {
    if (place.row >= field_.rows() || place.column >= field_.columns() || wrong_ != nullptr) return;
    const auto division = readDivision(place, size);
    const std::uint32_t half = 1U << (kWidths[size] - 1U) >> 1;
    const auto part = static_cast<BlockSize>(size - division);
    const Place below{place.row + half, place.column}, beside{place.row, place.column + half};
    if (division == kQuarters && size > kEight) {
        divide(place, part);
        divide(beside, part);
        divide(below, part);
        divide({below.row, beside.column}, part);
        return;
    }
    block(place, part);
    if (size > kEight && division == kAboveAndBelow && below.row < field_.rows()) block(below, part);
    if (size > kEight && division == kSideBySide && beside.column < field_.columns()) block(beside, part);
    const std::uint32_t width = eightsOf(kWidths[size]);
    std::fill_n(above_.divisions.begin() + place.column, width,
                static_cast<std::uint8_t>(15 >> kWidths[part]));
    std::fill_n(leftDivisions_.begin() + place.row % kWide, width,
                static_cast<std::uint8_t>(15 >> kHeights[part]));
}

void Tile::block(Place place, BlockSize size) {
    if (wrong_ != nullptr) return;
    place_ = place;
    beside_.above = place.row > 0 ? &field_.at({place.row - 1, place.column}) : nullptr;
    beside_.left = place.column > bounds_.firstColumn ? &field_.at({place.row, place.column - 1}) : nullptr;
    Block block;
    block.size = size;
    readModes(block);
    if (block.skipped) {
        for (std::size_t plane = 0; plane < 3; ++plane) clearPlane(block, plane);
    } else {
        bool any = false;
        for (std::size_t plane = 0; plane < 3; ++plane) any = passPlane(block, plane) || any;
        block.skipped = !any && block.inter() && size >= kEight;
    }
    field_.put(place, block);
    if (bits_.overrun()) wrong_ = "its coded data end before the picture does";
}

void Tile::clearPlane(const Block& block, std::size_t plane) {
    const auto width = eightsOf(kWidths[block.size]) * across(plane);
    const auto height = eightsOf(kHeights[block.size]) * down(plane);
    std::fill_n(above_.coefficients[plane].begin() + place_.column * across(plane), width, std::uint8_t{0});
    std::fill_n(left_[plane].begin() + place_.row % kWide * down(plane), height, std::uint8_t{0});
}

// Whether the block has coefficients in it.
bool Tile::passPlane(const Block& block, std::size_t plane) {
    const auto width = eightsOf(kWidths[block.size]) * across(plane);
    const auto height = eightsOf(kHeights[block.size]) * down(plane);
    // As far as the picture goes.
    const auto inside = std::min(width, (field_.columns() - place_.column) * across(plane));
    const auto insideDown = std::min(height, (field_.rows() - place_.row) * down(plane));
    BlockKind kind{block.transform, plane > 0, block.inter(), ScanKind::Both};
    if (plane > 0) {
        const auto least = std::min(width, height);
        while ((1U << kind.transform) > least) --kind.transform;
        if (block.size < kEight) kind.transform = 0;
    }
    const std::uint32_t step = 1U << kind.transform;
    auto* above = &above_.coefficients[plane][std::size_t{place_.column} * across(plane)];
    auto* left = &left_[plane][place_.row % kWide * down(plane)];
    const bool foretold = plane == 0 && !block.inter() && !picture_.head.lossless;
    bool any = false;
    for (std::uint32_t y = 0; y < insideDown; y += step) {
        for (std::uint32_t x = 0; x < inside; x += step) {
            if (foretold) kind.scan = scanFor(block.modes[block.size < kEight ? 2 * y + x : 0]);
            const auto has = [&](const std::uint8_t* edge) {
                return std::any_of(edge, edge + step, [](auto each) { return each != 0; }) ? std::size_t{1}
                                                                                           : 0;
            };
            const bool more = passCoefficients(bits_, kind, has(above + x) + has(left + y),
                                               picture_.kept.bits, chances_, counts_);
            any = any || more;
            // What is outside of the picture has none.
            for (std::uint32_t i = 0; i < step; ++i) {
                above[x + i] = more && x + i < inside ? 1 : 0;
                left[y + i] = more && y + i < insideDown ? 1 : 0;
            }
            if (bits_.overrun()) return any;
        }
    }
    // Blocks that lie wholly outside were not asked for.
    for (auto x = (inside + step - 1) / step * step; x < width; ++x) above[x] = 0;
    for (auto y = (insideDown + step - 1) / step * step; y < height; ++y) left[y] = 0;
    return any;
}

const char* Tile::follow() {
    if (bits_.flag()) return "its coded data are none";
    for (auto row = bounds_.firstRow; row < bounds_.endRow; row += kWide) {
        left_ = {};
        leftDivisions_ = {};
        for (auto column = bounds_.firstColumn; column < bounds_.endColumn; column += kWide)
            divide({row, column}, kLargest);
        if (wrong_ != nullptr) return wrong_;
    }
    return bits_.endsHere() ? nullptr : "its picture ends before the coded data do";
}

}  // namespace dreskel::vp9
