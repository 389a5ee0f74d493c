#include "desktop/sheet/arrangement.h"

#include <algorithm>
#include <map>
#include <QDateTime>
#include <QLocale>
#include <set>

#include "desktop/look/look.h"
#include "desktop/look/text.h"

namespace dreskel {
namespace {

// A pause longer than this ends a shoot.
constexpr qint64 kPauseSeconds = 45 * 60;

using Files = std::vector<const Indexed*>;

QString countsOf(const Files& files) {
    std::map<Kind, std::size_t> counts;
    for (const auto* file : files) ++counts[file->finding->kind];
    QStringList parts;
    for (const auto& [kind, count] : counts) {
        parts << QStringLiteral("%1 %2").arg(look::numberText(count), look::kindText(kind, count));
    }
    return parts.join(QStringLiteral(", "));
}

QString detailOf(const Files& files) {
    std::set<std::string> cameras;
    for (const auto* file : files) {
        const auto& camera = file->finding->description.camera;
        if (!camera.empty()) cameras.insert(camera);
    }
    QStringList parts;
    for (const auto& camera : cameras) parts << QString::fromStdString(camera);
    parts << countsOf(files);
    return parts.join(QStringLiteral(", "));
}

struct Bundle {
    QString title;
    Files files;
    bool cameras = false;  // whether its cameras are named
};

QString shootTitle(std::int64_t from, std::int64_t to) {
    const auto first = QDateTime::fromSecsSinceEpoch(from, Qt::UTC);
    const auto last = QDateTime::fromSecsSinceEpoch(to, Qt::UTC);
    const auto& locale = Text::locale();
    auto title = locale.toString(first, Text::tr("dddd d MMMM yyyy, HH:mm"));
    if (first.date() != last.date()) {
        title += Text::tr(" to ") + locale.toString(last, Text::tr("d MMMM, HH:mm"));
    } else if (first.secsTo(last) >= 60) {
        title += Text::tr(" to ") + locale.toString(last, QStringLiteral("HH:mm"));
    }
    return title;
}

std::vector<Bundle> byShoot(const Files& files) {
    Files dated, undated;
    for (const auto* file : files) (file->taken == kNoTime ? undated : dated).push_back(file);
    std::stable_sort(dated.begin(), dated.end(),
                     [](const Indexed* a, const Indexed* b) { return a->taken < b->taken; });
    std::vector<Bundle> groups;
    for (std::size_t from = 0; from < dated.size();) {
        auto to = from + 1;
        while (to < dated.size() && dated[to]->taken - dated[to - 1]->taken <= kPauseSeconds) ++to;
        const Files shoot(dated.begin() + static_cast<std::ptrdiff_t>(from),
                          dated.begin() + static_cast<std::ptrdiff_t>(to));
        groups.push_back(Bundle{shootTitle(dated[from]->taken, dated[to - 1]->taken), shoot, true});
        from = to;
    }
    if (!undated.empty()) groups.push_back(Bundle{Text::tr("No date known"), undated, true});
    return groups;
}

// Under headings of their own, in order of the words; those without one come last, under `none`.
template <typename WordOf>
std::vector<Bundle> byWord(const Files& files, WordOf&& wordOf, const QString& none) {
    std::map<std::string, Files> words;
    for (const auto* file : files) words[wordOf(*file->finding)].push_back(file);
    std::vector<Bundle> groups;
    for (const auto& [word, own] : words) {
        if (!word.empty()) groups.push_back(Bundle{QString::fromStdString(word), own, false});
    }
    if (const auto unknown = words.find(""); unknown != words.end())
        groups.push_back(Bundle{none, unknown->second, false});
    return groups;
}

// The client's own folders; in each the names in order.
std::vector<Bundle> byFolder(const Files& files) {
    std::map<std::string, Files> folders;
    Files nameless, loose;
    for (const auto* file : files) {
        const auto& finding = *file->finding;
        auto& into = finding.name.empty()     ? nameless
                     : finding.folder.empty() ? loose
                                              : folders[finding.folder];
        into.push_back(file);
    }
    const auto byName = [](const Indexed* a, const Indexed* b) {
        return a->finding->name < b->finding->name;
    };
    std::vector<Bundle> groups;
    for (auto& [folder, own] : folders) {
        std::stable_sort(own.begin(), own.end(), byName);
        groups.push_back(Bundle{QString::fromStdString(folder), own, true});
    }
    if (!loose.empty()) {
        std::stable_sort(loose.begin(), loose.end(), byName);
        groups.push_back(Bundle{Text::tr("In the root, or in a folder whose name is lost"), loose, true});
    }
    if (!nameless.empty()) groups.push_back(Bundle{Text::tr("No directory speaks of them"), nameless, true});
    return groups;
}

std::vector<Bundle> byCondition(const Files& files) {
    std::vector<Bundle> groups;
    const std::pair<Condition, const char*> order[] = {
        {Condition::Whole, QT_TRANSLATE_NOOP("dreskel::Text", "Whole: every byte decoded")},
        {Condition::Partial, QT_TRANSLATE_NOOP("dreskel::Text", "Partial: some of it decodes")},
        {Condition::Broken, QT_TRANSLATE_NOOP("dreskel::Text", "Broken: nothing of it decodes")},
        {Condition::Unchecked, QT_TRANSLATE_NOOP("dreskel::Text", "Not checked")}};
    for (const auto& [condition, title] : order) {
        Files own;
        std::copy_if(
            files.begin(), files.end(), std::back_inserter(own),
            [condition = condition](const Indexed* file) { return file->finding->condition == condition; });
        if (!own.empty()) groups.push_back(Bundle{Text::tr(title), own, false});
    }
    return groups;
}

std::vector<Bundle> bundled(const Files& files, ArrangeBy by) {
    if (files.empty()) return {};
    switch (by) {
        case ArrangeBy::Shoot: return byShoot(files);
        case ArrangeBy::Folder: return byFolder(files);
        case ArrangeBy::Camera:
            return byWord(
                files, [](const Finding& finding) { return finding.description.camera; },
                Text::tr("Camera not known"));
        case ArrangeBy::Format:
            return byWord(
                files,
                [](const Finding& finding) {
                    return QString::fromStdString(finding.format).toUpper().toStdString();
                },
                Text::tr("Format not known"));
        case ArrangeBy::Condition: return byCondition(files);
        case ArrangeBy::Place: break;
    }
    return {Bundle{Text::tr("From the first sector to the last"), files, false}};
}

// What is largest, longest, best rated or most damaged comes first; what has no such thing last.
void sortBy(OrderBy order, Files& files) {
    const auto sort = [&files](auto&& keyOf) {
        std::stable_sort(files.begin(), files.end(),
                         [&](const Indexed* a, const Indexed* b) { return keyOf(*a) < keyOf(*b); });
    };
    switch (order) {
        case OrderBy::AsArranged: return;
        case OrderBy::Time:
            return sort([](const Indexed& file) { return file.taken == kNoTime ? INT64_MAX : file.taken; });
        case OrderBy::Name:
            return sort([](const Indexed& file) {
                return std::pair(file.finding->name.empty(), std::string_view(file.finding->name));
            });
        case OrderBy::Size: return sort([](const Indexed& file) { return ~file.finding->size(); });
        case OrderBy::Length:
            return sort([](const Indexed& file) { return -file.finding->description.duration.value_or(-1); });
        case OrderBy::Damage: return sort([](const Indexed& file) { return file.finding->decoded; });
        case OrderBy::Rating: return sort([](const Indexed& file) { return -file.finding->decision.rating; });
    }
}

Bundle nearestFirst(Files files, const Nearness& apart) {
    std::stable_sort(files.begin(), files.end(), [&](const Indexed* a, const Indexed* b) {
        return apart.value(a->finding->id, 1) < apart.value(b->finding->id, 1);
    });
    return {Text::tr("The most alike first"), std::move(files), false};
}

// What belongs to a file stands behind it where files are looked at as they were taken, not where a fact of
// each decides.
bool standsTogether(const ArrangeRequest& request) {
    const bool asTaken =
        request.by == ArrangeBy::Shoot || request.by == ArrangeBy::Folder || request.by == ArrangeBy::Camera;
    return asTaken && (request.order == OrderBy::AsArranged || request.order == OrderBy::Time);
}

using Belongings = std::map<std::int64_t, Files>;  // by the file that they belong to

// Those whose file is among them, out of the list.
Belongings takeBelongings(Files& files) {
    std::set<std::int64_t> owners;
    for (const auto* file : files) {
        if (!file->finding->belongsTo) owners.insert(file->finding->id);
    }
    Belongings taken;
    std::erase_if(files, [&](const Indexed* file) {
        const auto& owner = file->finding->belongsTo;
        if (!owner || !owners.contains(*owner)) return false;
        taken[*owner].push_back(file);
        return true;
    });
    // Chapters in their order.
    for (auto& [owner, all] : taken) {
        std::sort(all.begin(), all.end(), [](const Indexed* a, const Indexed* b) {
            return std::pair(a->taken, a->finding->id) < std::pair(b->taken, b->finding->id);
        });
    }
    return taken;
}

void putBehind(const Belongings& belongings, Files& files) {
    if (belongings.empty()) return;
    Files together;
    for (const auto* file : files) {
        together.push_back(file);
        const auto found = belongings.find(file->finding->id);
        if (found != belongings.end())
            together.insert(together.end(), found->second.begin(), found->second.end());
    }
    files = std::move(together);
}

bool liesIn(const Finding& finding, ByteRange span) {
    return std::any_of(finding.pieces.begin(), finding.pieces.end(), [span](const Piece& piece) {
        return piece.from == PieceFrom::Card && piece.onCard().overlaps(span);
    });
}

// All but what is chosen on the sides.
bool admitted(const Filter& filter, const Indexed& file) {
    const auto& finding = *file.finding;
    if (finding.kind == Kind::Photo && !filter.photos) return false;
    if (finding.kind == Kind::Video && !filter.clips) return false;
    if (finding.kind == Kind::Audio && !filter.sound) return false;
    if ((finding.kind == Kind::Sidecar || finding.kind == Kind::Other) && !filter.others) return false;
    if (filter.onlyDamaged && finding.condition == Condition::Whole) return false;
    if (filter.among && !filter.among->contains(finding.id)) return false;
    if (filter.span && !liesIn(finding, *filter.span)) return false;
    return filter.typed.admits(file);
}

// The sides as numbers, so that a file is asked without looking up words.
class Sides {
  public:
    Sides(const FacetBook& book, const Filter& filter) : book_(book), filter_(filter) {
        for (const auto facet : kAllFacets) {
            const auto side = static_cast<std::size_t>(facet);
            counts_[side].resize(book.count(facet));
            wanted_[side].resize(book.count(facet));
            for (std::size_t number = 0; number < book.count(facet); ++number) {
                const auto& value = book.valueAt(facet, static_cast<FacetBook::Number>(number));
                wanted_[side][number] =
                    filter.chosen[side].isEmpty() || filter.chosen[side].contains(value.key);
            }
        }
    }
    // Counts the file where it would be left, and says whether it is.
    bool admits(const Indexed& file) {
        std::size_t missed = 0;
        std::size_t where = 0;
        for (std::size_t side = 0; side < kFacets; ++side) {
            if (wanted_[side][file.values[side]] != 0) continue;
            where = side;
            if (++missed > 1) return false;
        }
        if (missed == 1) {
            ++counts_[where][file.values[where]];
            return false;
        }
        for (std::size_t side = 0; side < kFacets; ++side) ++counts_[side][file.values[side]];
        return true;
    }
    std::vector<FacetCount> counts(Facet facet) const {
        const auto side = static_cast<std::size_t>(facet);
        std::vector<FacetCount> all;
        for (std::size_t number = 1; number < counts_[side].size(); ++number) {
            const auto& value = book_.valueAt(facet, static_cast<FacetBook::Number>(number));
            if (counts_[side][number] > 0 || filter_.chosen[side].contains(value.key))
                all.push_back({value, counts_[side][number]});
        }
        std::sort(all.begin(), all.end(),
                  [](const FacetCount& a, const FacetCount& b) { return a.value.key < b.value.key; });
        return all;
    }

  private:
    const FacetBook& book_;
    const Filter& filter_;
    std::array<std::vector<std::size_t>, kFacets> counts_;
    std::array<std::vector<char>, kFacets> wanted_;
};

}  // namespace

Arrangement arrange(Index& index, const ArrangeRequest& request) {
    auto filter = request.filter;
    auto files = index.of(*request.files);
    if (filter.typed.namesPages()) {
        std::vector<std::int64_t> listed;
        for (const auto* file : files) {
            if (file->finding->listed()) listed.push_back(file->finding->id);
        }
        std::sort(listed.begin(), listed.end());
        filter.typed.settlePages(listed);
    }
    Sides sides(index.book(), filter);
    std::erase_if(files,
                  [&](const Indexed* file) { return !admitted(filter, *file) || !sides.admits(*file); });
    Arrangement arrangement;
    arrangement.files = files.size();
    auto belongings = standsTogether(request) ? takeBelongings(files) : Belongings{};
    const bool byNearness = !filter.apart.isEmpty() && request.order == OrderBy::AsArranged;
    for (auto& bundle :
         byNearness ? std::vector{nearestFirst(files, filter.apart)} : bundled(files, request.by)) {
        sortBy(request.order, bundle.files);
        putBehind(belongings, bundle.files);
        Group group{bundle.title, bundle.cameras ? detailOf(bundle.files) : countsOf(bundle.files), {}};
        for (const auto* file : bundle.files) group.ids.push_back(file->finding->id);
        arrangement.groups.push_back(std::move(group));
    }
    arrangement.order.reserve(files.size());
    arrangement.indexOf.reserve(static_cast<qsizetype>(files.size()));
    for (const auto& group : arrangement.groups) {
        for (const auto id : group.ids) {
            arrangement.indexOf.insert(id, arrangement.order.size());
            arrangement.order.push_back(id);
        }
    }
    for (const auto facet : kAllFacets)
        arrangement.counts[static_cast<std::size_t>(facet)] = sides.counts(facet);
    return arrangement;
}

}  // namespace dreskel
