// Which files are on the sheet, in what order, and under which headings. Pure: no widgets.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <QHash>
#include <QSet>
#include <QString>
#include <vector>

#include "base/range.h"
#include "desktop/files.h"
#include "desktop/sheet/indexed.h"
#include "desktop/sheet/narrowing.h"

namespace dreskel {

enum class ArrangeBy { Shoot, Folder, Place, Camera, Format, Condition };
// Under each heading. AsArranged: by time under shoots, by name under folders, otherwise by place on the
// card.
enum class OrderBy { AsArranged, Time, Name, Size, Length, Damage, Rating };

// How far each is from what it was compared with; see media/likeness.h.
using Nearness = QHash<std::int64_t, double>;

struct Filter {
    bool photos = true, clips = true, sound = true, others = true;
    bool onlyDamaged = false;
    Narrowing typed{};
    // The values asked for on each side, by key; a side with none admits all.
    std::array<QSet<QString>, kFacets> chosen{};
    std::optional<ByteRange> span{};            // of the card: files with a piece in it
    std::optional<QSet<std::int64_t>> among{};  // these only, such as what looks like another

    Nearness apart{};  // of those; they come nearest first while nothing else orders them

    bool operator==(const Filter& other) const = default;
};

struct Group {
    QString title, detail;
    std::vector<std::int64_t> ids;
};

// A value on one side, and how many files choosing it would leave beside what is chosen on the other sides.
struct FacetCount {
    FacetValue value;
    std::size_t files = 0;
};

struct Arrangement {
    std::vector<Group> groups;
    std::size_t files = 0;  // in them
    // All of them as the groups follow one another, and where each is. Made here, as it takes a while with
    // many.
    std::vector<std::int64_t> order;
    QHash<std::int64_t, std::size_t> indexOf;
    std::array<std::vector<FacetCount>, kFacets>
        counts;  // in order of the keys; of those with a file or chosen
};

struct ArrangeRequest {
    JobFilesSeen files;
    ArrangeBy by = ArrangeBy::Shoot;
    OrderBy order = OrderBy::AsArranged;
    Filter filter{};
};

// The files may hold anything; what is not listed or not admitted is left out. Files of which no date is
// known come last under a heading of their own when arranged by shoot.
Arrangement arrange(Index& index, const ArrangeRequest& request);

}  // namespace dreskel
