// Which files are on the sheet, in what order, and under which headings. Pure: no widgets.
#pragma once

#include <cstdint>
#include <QString>
#include <vector>

#include "desktop/sheet/narrowing.h"
#include "job/finding.h"

namespace dreskel {

enum class ArrangeBy { Shoot, Folder, Place, Camera, Condition };

struct Filter {
    bool photos = true, clips = true, sound = true, others = true;
    bool onlyDamaged = false;
    bool onlyKept = false;
    Narrowing typed{};

    bool admits(const Finding& finding) const;
};

struct Group {
    QString title, detail;
    std::vector<std::int64_t> ids;
};

// `all` may hold anything; what is not listed or not admitted is left out. Files of which no date is known
// come last under a heading of their own when arranged by shoot.
std::vector<Group> arrange(const std::vector<const Finding*>& all, ArrangeBy by, const Filter& filter);

}  // namespace dreskel
