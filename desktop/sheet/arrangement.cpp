#include "desktop/sheet/arrangement.h"

#include <algorithm>
#include <map>
#include <QDateTime>
#include <QLocale>
#include <set>

#include "desktop/look/look.h"

namespace dreskel {
namespace {

// A pause longer than this ends a shoot.
constexpr qint64 kPauseSeconds = 45 * 60;

struct Dated {
    const Finding* finding;
    QDateTime taken;
};

QString countsOf(const std::vector<const Finding*>& files) {
    std::map<Kind, std::size_t> counts;
    for (const auto* file : files) ++counts[file->kind];
    QStringList parts;
    for (const auto& [kind, count] : counts) {
        parts << QStringLiteral("%1 %2").arg(look::numberText(count), look::kindText(kind, count));
    }
    return parts.join(QStringLiteral(", "));
}

QString detailOf(const std::vector<const Finding*>& files) {
    std::set<std::string> cameras;
    for (const auto* file : files) {
        if (!file->description.camera.empty()) cameras.insert(file->description.camera);
    }
    QStringList parts;
    for (const auto& camera : cameras) parts << QString::fromStdString(camera);
    parts << countsOf(files);
    return parts.join(QStringLiteral(", "));
}

Group groupOf(const QString& title, const std::vector<const Finding*>& files, bool cameras) {
    Group group{title, cameras ? detailOf(files) : countsOf(files), {}};
    for (const auto* file : files) group.ids.push_back(file->id);
    return group;
}

std::vector<Group> byShoot(const std::vector<const Finding*>& files) {
    std::vector<Dated> dated;
    std::vector<const Finding*> undated;
    for (const auto* file : files) {
        const auto taken =
            QDateTime::fromString(QString::fromStdString(file->description.taken).left(19), Qt::ISODate);
        if (taken.isValid()) {
            dated.push_back({file, taken});
        } else {
            undated.push_back(file);
        }
    }
    std::stable_sort(dated.begin(), dated.end(),
                     [](const Dated& a, const Dated& b) { return a.taken < b.taken; });
    std::vector<Group> groups;
    const QLocale english(QLocale::English);
    for (std::size_t from = 0; from < dated.size();) {
        auto to = from + 1;
        while (to < dated.size() && dated[to - 1].taken.secsTo(dated[to].taken) <= kPauseSeconds) ++to;
        std::vector<const Finding*> shoot;
        for (auto i = from; i < to; ++i) shoot.push_back(dated[i].finding);
        const auto& first = dated[from].taken;
        const auto& last = dated[to - 1].taken;
        auto title = english.toString(first, QStringLiteral("dddd d MMMM yyyy, HH:mm"));
        if (first.date() != last.date()) {
            title += QStringLiteral(" to ") + english.toString(last, QStringLiteral("d MMMM, HH:mm"));
        } else if (first.secsTo(last) >= 60) {
            title += QStringLiteral(" to ") + english.toString(last, QStringLiteral("HH:mm"));
        }
        groups.push_back(groupOf(title, shoot, true));
        from = to;
    }
    if (!undated.empty()) groups.push_back(groupOf(QStringLiteral("No date known"), undated, true));
    return groups;
}

std::vector<Group> byCamera(const std::vector<const Finding*>& files) {
    std::map<std::string, std::vector<const Finding*>> cameras;
    for (const auto* file : files) cameras[file->description.camera].push_back(file);
    std::vector<Group> groups;
    for (const auto& [camera, own] : cameras) {
        if (!camera.empty()) groups.push_back(groupOf(QString::fromStdString(camera), own, false));
    }
    if (const auto unknown = cameras.find(""); unknown != cameras.end()) {
        groups.push_back(groupOf(QStringLiteral("Camera not known"), unknown->second, false));
    }
    return groups;
}

// The client's own folders; in each the names in order.
std::vector<Group> byFolder(const std::vector<const Finding*>& files) {
    std::map<std::string, std::vector<const Finding*>> folders;
    std::vector<const Finding*> nameless;
    std::vector<const Finding*> loose;
    for (const auto* file : files) {
        if (file->name.empty()) {
            nameless.push_back(file);
        } else if (file->folder.empty()) {
            loose.push_back(file);
        } else {
            folders[file->folder].push_back(file);
        }
    }
    const auto byName = [](const Finding* a, const Finding* b) { return a->name < b->name; };
    std::vector<Group> groups;
    for (auto& [folder, own] : folders) {
        std::stable_sort(own.begin(), own.end(), byName);
        groups.push_back(groupOf(QString::fromStdString(folder), own, true));
    }
    if (!loose.empty()) {
        std::stable_sort(loose.begin(), loose.end(), byName);
        groups.push_back(
            groupOf(QStringLiteral("In the root, or in a folder whose name is lost"), loose, true));
    }
    if (!nameless.empty())
        groups.push_back(groupOf(QStringLiteral("No directory speaks of them"), nameless, true));
    return groups;
}

std::vector<Group> byCondition(const std::vector<const Finding*>& files) {
    std::vector<Group> groups;
    const std::pair<Condition, const char*> order[] = {{Condition::Whole, "Whole: every byte decoded"},
                                                       {Condition::Partial, "Partial: some of it decodes"},
                                                       {Condition::Broken, "Broken: nothing of it decodes"},
                                                       {Condition::Unchecked, "Not checked"}};
    for (const auto& [condition, title] : order) {
        std::vector<const Finding*> own;
        std::copy_if(files.begin(), files.end(), std::back_inserter(own),
                     [condition = condition](const Finding* file) { return file->condition == condition; });
        if (!own.empty()) groups.push_back(groupOf(QString::fromLatin1(title), own, false));
    }
    return groups;
}

}  // namespace

bool Filter::admits(const Finding& finding) const {
    if (finding.kind == Kind::Photo && !photos) return false;
    if (finding.kind == Kind::Video && !clips) return false;
    if (finding.kind == Kind::Audio && !sound) return false;
    if ((finding.kind == Kind::Sidecar || finding.kind == Kind::Other) && !others) return false;
    if (onlyDamaged && finding.condition == Condition::Whole) return false;
    if (onlyKept && !finding.kept) return false;
    return !typed.any() || typed.admits(finding);
}

std::vector<Group> arrange(const std::vector<const Finding*>& all, ArrangeBy by, const Filter& filter) {
    std::vector<const Finding*> files;
    std::copy_if(all.begin(), all.end(), std::back_inserter(files),
                 [&](const Finding* file) { return file->listed() && filter.admits(*file); });
    std::stable_sort(files.begin(), files.end(),
                     [](const Finding* a, const Finding* b) { return a->start() < b->start(); });
    if (files.empty()) return {};
    switch (by) {
        case ArrangeBy::Shoot: return byShoot(files);
        case ArrangeBy::Folder: return byFolder(files);
        case ArrangeBy::Camera: return byCamera(files);
        case ArrangeBy::Condition: return byCondition(files);
        case ArrangeBy::Place: break;
    }
    return {groupOf(QStringLiteral("From the first sector to the last"), files, false)};
}

}  // namespace dreskel
