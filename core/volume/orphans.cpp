#include "volume/orphans.h"

#include <algorithm>
#include <array>
#include <bit>
#include <set>

#include "volume/directory.h"

namespace dreskel {
namespace {

constexpr std::size_t kEntry = 32;
constexpr std::size_t kMostFolders = 20000;
constexpr std::size_t kMostGrids = 12;
constexpr std::uint64_t kLargestFolder = 4ULL << 20;  // bytes read of one stretch
constexpr int kDeepest = 32;

bool zero(Bytes bytes) {
    return std::all_of(bytes.begin(), bytes.end(), [](std::uint8_t byte) { return byte == 0; });
}

// 1: names something, 0: nothing in it, -1: no FAT entry.
int fatEntry(Bytes entry) {
    const auto attributes = entry[11];
    if (attributes == 0x0f) {
        const auto order = entry[0] & 0x3f;
        const bool deleted = entry[0] == 0xe5;
        const bool sound = (deleted || (order >= 1 && order <= 20 && (entry[0] & 0x80) == 0)) &&
                           entry[12] == 0 && entry[26] == 0 && entry[27] == 0;
        return sound ? 1 : -1;
    }
    if ((attributes & 0xc0) != 0 || attributes == 0) return -1;
    if (entry[0] < 0x20 && entry[0] != 0x05) return -1;
    for (std::size_t i = 1; i < 11; ++i) {
        const auto letter = entry[i];
        constexpr std::string_view forbidden = "\"*+,/:;<=>?[\\]|";
        if (letter < 0x20 || letter == 0x7f || (letter >= 'a' && letter <= 'z')) return -1;
        if (forbidden.find(static_cast<char>(letter)) != std::string_view::npos) return -1;
    }
    const unsigned date = entry[24] | static_cast<unsigned>(entry[25]) << 8;
    const unsigned month = date >> 5 & 15U;
    if (date != 0 && ((date & 31U) == 0 || month == 0 || month > 12)) return -1;
    return (attributes & 0x08) != 0 ? 0 : 1;
}

int exFatEntry(Bytes entry) {
    switch (entry[0]) {
        case 0x85:
        case 0x05: return entry[1] >= 2 && entry[1] <= 18 && zero(entry.subspan(25, 7)) ? 1 : -1;
        case 0xc0:
        case 0x40: return (entry[1] & 0xfc) == 0 && entry[2] == 0 && entry[3] > 0 ? 1 : -1;
        case 0xc1:
        case 0x41: return entry[1] == 0 ? 0 : -1;
        case 0x81:
        case 0x82:
        case 0x83:
        case 0x03:
        case 0xa0: return 0;
        default: return -1;
    }
}

template <typename Judge>
bool allEntries(Bytes sector, Judge judge) {
    int named = 0;
    for (std::size_t at = 0; at + kEntry <= sector.size(); at += kEntry) {
        const auto entry = sector.subspan(at, kEntry);
        if (entry[0] == 0) return named > 0 && zero(sector.subspan(at));
        const int verdict = judge(entry);
        if (verdict < 0) return false;
        named += verdict;
    }
    return named > 0;
}

bool beginsWithDots(Bytes sector) {
    return startsWith(sector, ".          ") && sector.size() > 64 &&
           startsWith(sector.subspan(32), "..         ");
}

struct Folder {
    std::uint64_t offset = 0;  // on the source
    DirectoryKind kind = DirectoryKind::Fat;
    DirectoryContent content;
    std::optional<ClusterGrid> grid;
    std::optional<std::uint32_t> cluster;  // its own
    std::size_t continues = SIZE_MAX;      // the folder that it is a later part of
    std::string path;
    bool pathKnown = false;
};

std::optional<std::uint64_t> placeOf(const ClusterGrid& grid, std::uint32_t cluster) {
    if (cluster < 2) return std::nullopt;
    const auto offset =
        grid.base + static_cast<std::int64_t>((std::uint64_t{cluster} - 2) * grid.clusterSize);
    if (offset < 0) return std::nullopt;
    return static_cast<std::uint64_t>(offset);
}

std::optional<std::uint32_t> clusterAt(const ClusterGrid& grid, std::uint64_t offset) {
    const auto distance = static_cast<std::int64_t>(offset) - grid.base;
    if (distance < 0 || distance % static_cast<std::int64_t>(grid.clusterSize) != 0) return std::nullopt;
    const auto cluster = static_cast<std::uint64_t>(distance) / grid.clusterSize + 2;
    if (cluster > 0xfffffff0U) return std::nullopt;
    return static_cast<std::uint32_t>(cluster);
}

// JEITA CP-3461 (DCF): the folders of a camera have three digits and five letters, and lie in one called
// DCIM.
bool isDcfFolder(const std::string& name) {
    if (name.size() != 8 || name[0] < '1' || name[0] > '9') return false;
    const auto digit = [&](std::size_t at) { return name[at] >= '0' && name[at] <= '9'; };
    return digit(1) && digit(2);
}

class Assembler {
  public:
    Assembler(const Source& source, const Survey& survey, const Anchors& anchors)
        : source_(source), anchors_(anchors) {
        for (const auto& volume : survey.volumes) {
            if (volume.facts.clusterSize > 0)
                grids_.insert({static_cast<std::int64_t>(volume.offset + volume.facts.dataStart),
                               volume.facts.clusterSize});
        }
        for (const auto& [start, length] : anchors) byLength_.emplace(length, start);
    }

    std::vector<RememberedFile> assemble(std::vector<std::uint64_t> sectors, const RangeSet& known) {
        collect(std::move(sectors), known);
        guessGridsFromDots();
        guessGridsFromFiles();
        for (const auto& folder : folders_) starts_.insert(folder.offset);
        for (auto& folder : folders_) choose(folder);
        connect();
        std::vector<RememberedFile> files;
        for (std::size_t i = 0; i < folders_.size(); ++i) tell(i, files);
        return files;
    }

  private:
    // Stretches of sectors, cut where a FAT folder begins.
    void collect(std::vector<std::uint64_t> sectors, const RangeSet& known) {
        std::sort(sectors.begin(), sectors.end());
        const std::uint64_t size = source_.sectorSize();
        std::vector<std::uint8_t> bytes;
        for (std::size_t i = 0; i < sectors.size() && folders_.size() < kMostFolders;) {
            auto next = i + 1;
            while (next < sectors.size() && sectors[next] == sectors[next - 1] + size) ++next;
            const auto from = sectors[i];
            const auto length = std::min(kLargestFolder, sectors[next - 1] + size - from);
            i = next;
            if (known.contains(from)) continue;
            bytes.resize(static_cast<std::size_t>(length));
            if (source_.read(from, bytes).count < bytes.size()) continue;
            std::size_t start = 0;
            for (std::size_t at = static_cast<std::size_t>(size); at <= bytes.size();
                 at += static_cast<std::size_t>(size)) {
                if (at < bytes.size() && !beginsWithDots(Bytes(bytes).subspan(at))) continue;
                add(from + start, Bytes(bytes).subspan(start, at - start));
                start = at;
            }
        }
    }

    void add(std::uint64_t offset, Bytes bytes) {
        Folder folder;
        folder.offset = offset;
        const bool ex = allEntries(slice(bytes, 0, source_.sectorSize()), exFatEntry);
        folder.kind = ex ? DirectoryKind::ExFat : DirectoryKind::Fat;
        folder.content = readDirectory(bytes, folder.kind);
        if (!folder.content.entries.empty() || folder.content.own != 0) folders_.push_back(std::move(folder));
    }

    void guessGridsFromDots() {
        std::map<ClusterGrid, int> votes;
        const Folder* last = nullptr;
        for (const auto& folder : folders_) {
            if (folder.kind != DirectoryKind::Fat || folder.content.own < 2) continue;
            if (last != nullptr && folder.content.own > last->content.own) {
                const auto distance = folder.offset - last->offset;
                const std::uint64_t clusters = folder.content.own - last->content.own;
                const auto cluster = distance / clusters;
                if (distance % clusters == 0 && std::has_single_bit(cluster) && cluster >= 512 &&
                    cluster <= 65536) {
                    ++votes[{static_cast<std::int64_t>(folder.offset) -
                                 static_cast<std::int64_t>((folder.content.own - 2) * cluster),
                             cluster}];
                }
            }
            last = &folder;
        }
        keepBest(votes, 1);
    }

    // A file whose length only one entry tells lies where that entry's cluster is.
    void guessGridsFromFiles() {
        std::map<ClusterGrid, int> votes;
        for (const auto& folder : folders_) {
            int asked = 0;
            for (const auto& entry : folder.content.entries) {
                if (entry.folder || entry.firstCluster < 2 || entry.size == 0) continue;
                const auto [from, to] = byLength_.equal_range(entry.size);
                if (from == to || std::distance(from, to) > 8) continue;
                if (++asked > 40) break;
                for (auto at = from; at != to; ++at) {
                    for (std::uint64_t cluster = 512; cluster <= (32U << 20); cluster *= 2) {
                        const ClusterGrid grid{
                            static_cast<std::int64_t>(at->second) -
                                static_cast<std::int64_t>((entry.firstCluster - 2) * cluster),
                            cluster};
                        if (grid.base >= 0 && votes.size() < 500000) ++votes[grid];
                    }
                }
            }
        }
        keepBest(votes, 3);
    }

    void keepBest(const std::map<ClusterGrid, int>& votes, int least) {
        std::vector<std::pair<int, ClusterGrid>> ranked;
        for (const auto& [grid, count] : votes) {
            if (count >= least) ranked.emplace_back(count, grid);
        }
        std::sort(ranked.rbegin(), ranked.rend());
        for (std::size_t i = 0; i < std::min<std::size_t>(4, ranked.size()) && grids_.size() < kMostGrids;
             ++i)
            grids_.insert(ranked[i].second);
    }

    // The grid under which most of what the folder names begins where it says.
    void choose(Folder& folder) {
        int best = 0;
        for (const auto& grid : grids_) {
            const auto cluster = clusterAt(grid, folder.offset);
            const bool head = folder.content.own != 0;
            if (!cluster || (head && *cluster != folder.content.own)) continue;
            int fits = head ? 2 : 0;
            for (const auto& entry : folder.content.entries) {
                const auto place = placeOf(grid, entry.firstCluster);
                if (!place) continue;
                if (entry.folder) {
                    fits += starts_.count(*place) > 0 ? 2 : 0;
                    continue;
                }
                const auto anchor = anchors_.find(*place);
                if (anchor != anchors_.end()) fits += anchor->second == entry.size ? 3 : 1;
            }
            if (fits <= best) continue;
            best = fits;
            folder.grid = grid;
            folder.cluster = cluster;
        }
    }

    // Names and parents, and which stretches are later parts of one folder.
    void connect() {
        for (std::size_t i = 0; i < folders_.size(); ++i) {
            const auto& folder = folders_[i];
            if (folder.grid && folder.cluster) at_[{*folder.grid, *folder.cluster}] = i;
        }
        for (std::size_t i = 0; i < folders_.size(); ++i) {
            for (const auto& entry : folders_[i].content.entries) {
                if (!entry.folder || !folders_[i].grid) continue;
                const auto child = at_.find({*folders_[i].grid, entry.firstCluster});
                if (child != at_.end() && child->second != i)
                    names_.emplace(child->second, std::pair(i, entry.name));
            }
        }
        findPredecessors();
    }

    // A folder that is full goes on in a cluster that was taken when its next file came: after the last file
    // it names, before the next. Of several full folders the one that has waited longest goes on first.
    void findPredecessors() {
        std::multimap<std::uint32_t, std::size_t> parts;  // by their first file
        std::multimap<std::uint32_t, std::size_t> full;   // by their last
        for (std::size_t i = 0; i < folders_.size(); ++i) {
            const auto& folder = folders_[i];
            if (!folder.grid) continue;
            const auto& entries = folder.content.entries;
            const auto first = firstFile(entries.begin(), entries.end());
            const auto last = firstFile(entries.rbegin(), entries.rend());
            const bool head = folder.content.own != 0 || names_.count(i) > 0;
            if (!head && first) parts.emplace(*first, i);
            if (!folder.content.ended && last) full.emplace(*last, i);
        }
        for (const auto& [first, part] : parts) {
            for (auto at = full.begin(); at != full.end() && at->first < first; ++at) {
                const auto& other = folders_[at->second];
                if (at->second == part || other.grid != folders_[part].grid ||
                    other.kind != folders_[part].kind)
                    continue;
                folders_[part].continues = at->second;
                full.erase(at);
                break;
            }
        }
    }

    // The first cluster of the first entry that has one.
    template <typename Iterator>
    static std::optional<std::uint32_t> firstFile(Iterator from, Iterator to) {
        const auto found = std::find_if(
            from, to, [](const DirectoryEntry& entry) { return !entry.folder && entry.firstCluster >= 2; });
        return found == to ? std::nullopt : std::optional(found->firstCluster);
    }

    std::string pathOf(std::size_t index, int depth) {
        auto& folder = folders_[index];
        if (folder.pathKnown || depth > kDeepest) return folder.path;
        folder.pathKnown = true;  // before its parents are asked, so that a circle ends
        if (folder.continues != SIZE_MAX) return folder.path = pathOf(folder.continues, depth + 1);
        const auto name = names_.find(index);
        if (name != names_.end()) {
            const auto parent = pathOf(name->second.first, depth + 1);
            return folder.path = parent.empty() ? name->second.second : parent + "/" + name->second.second;
        }
        const auto& entries = folder.content.entries;
        const bool camera = std::any_of(entries.begin(), entries.end(), [](const DirectoryEntry& entry) {
            return entry.folder && isDcfFolder(entry.name);
        });
        return folder.path = camera ? "DCIM" : "";
    }

    void tell(std::size_t index, std::vector<RememberedFile>& files) {
        const auto& folder = folders_[index];
        if (!folder.grid) return;
        const auto path = pathOf(index, 0);
        for (const auto& entry : folder.content.entries) {
            const auto place = placeOf(*folder.grid, entry.firstCluster);
            if (entry.folder || entry.size == 0 || !place || *place >= source_.size()) continue;
            const auto length = std::min(entry.size, source_.size() - *place);
            files.push_back({entry.name,
                             path,
                             entry.size,
                             entry.modified,
                             entry.created,
                             Fate::FormattedOver,
                             {{*place, length}},
                             entry.contiguous,
                             {}});
        }
    }

    const Source& source_;
    const Anchors& anchors_;
    std::multimap<std::uint64_t, std::uint64_t> byLength_;
    std::set<ClusterGrid> grids_;
    std::vector<Folder> folders_;
    std::set<std::uint64_t> starts_;  // of folders
    std::map<std::pair<ClusterGrid, std::uint32_t>, std::size_t> at_;
    std::map<std::size_t, std::pair<std::size_t, std::string>> names_;
};

}  // namespace

bool looksLikeFolder(Bytes sector) {
    if (sector.size() < 64 || sector[0] == 0) return false;
    return allEntries(sector, fatEntry) || allEntries(sector, exFatEntry);
}

std::vector<RememberedFile> rememberOrphans(const Source& source, std::vector<std::uint64_t> sectors,
                                            const RangeSet& known, const Survey& survey,
                                            const Anchors& anchors) {
    return Assembler(source, survey, anchors).assemble(std::move(sectors), known);
}

}  // namespace dreskel
