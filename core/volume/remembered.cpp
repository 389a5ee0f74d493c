#include "volume/remembered.h"

#include <algorithm>
#include <array>
#include <map>
#include <set>

namespace dreskel {
namespace {

constexpr std::size_t kMostOtherStarts = 64;
constexpr std::array<std::string_view, 3> kWords{"present", "deleted", "formatted over"};

class Rememberer {
  public:
    Rememberer(const Source& source, const std::function<bool()>& goOn, Remembered& into)
        : source_(source), goOn_(goOn), into_(into) {}

    void volume(const VolumeSeen& volume) {
        if (volume.facts.clusterSize == 0) return;
        const bool live = volume.state != VolumeSeen::State::Earlier;
        Allocation allocation(source_, volume.facts, volume.offset);
        auto tree = readTree(source_, volume, allocation, {}, goOn_);
        into_.complete = into_.complete && tree.complete;
        restoreFirstLetters(tree);
        if (live) noteStructures(volume, tree);
        // Present files first: what they use is not a deleted file's any more.
        for (const bool present : {true, false}) {
            for (const auto& file : tree.files) {
                const bool deleted = file.entry.deleted || file.inLostFolder;
                if (deleted == present || file.entry.size == 0) continue;
                if (live) {
                    add(file, allocation, present ? Fate::Present : Fate::Deleted);
                } else {
                    add(file, allocation, Fate::FormattedOver);
                }
            }
        }
    }

  private:
    // A deletion overwrites the first letter of a short name. Cameras give all files of a folder the same
    // first four letters (DCF, JEITA CP-3461): where the neighbours agree on it, it is known.
    static void restoreFirstLetters(Tree& tree) {
        std::map<std::pair<std::string, std::string>, std::set<char>> letters;
        const auto keyOf = [](const TreeFile& file) {
            return std::pair(file.folder,
                             file.entry.name.size() > 4 ? file.entry.name.substr(1, 3) : std::string());
        };
        for (const auto& file : tree.files) {
            if (!file.entry.firstLetterLost && file.entry.name.size() > 4)
                letters[keyOf(file)].insert(file.entry.name[0]);
        }
        for (auto& file : tree.files) {
            if (!file.entry.firstLetterLost) continue;
            const auto known = letters.find(keyOf(file));
            if (known != letters.end() && known->second.size() == 1)
                file.entry.name[0] = *known->second.begin();
        }
    }

    void noteStructures(const VolumeSeen& volume, const Tree& tree) {
        into_.structures.add({volume.offset, volume.facts.dataStart});
        for (const auto& range : tree.folders) into_.structures.add(range);
    }

    void add(const TreeFile& file, const Allocation& allocation, Fate fate) {
        const auto& entry = file.entry;
        if (!allocation.valid(entry.firstCluster) && !entry.highHalfZeroed) return;
        RememberedFile found{entry.name, file.folder, entry.size, entry.modified, entry.created, fate,
                             {},         false,       {}};
        if (allocation.valid(entry.firstCluster)) place(entry, allocation, found);
        if (fate != Fate::Present && entry.highHalfZeroed && allocation.facts().kind == "FAT32")
            otherStarts(entry, allocation, found);
        if (found.places.empty() && found.otherStarts.empty()) return;
        if (found.places.empty()) found.places = {{found.otherStarts.front(), found.size}};
        if (fate == Fate::Present) {
            for (const auto& range : found.places) {
                const std::uint64_t cluster = allocation.facts().clusterSize;
                into_.present.add({range.offset, (range.length + cluster - 1) / cluster * cluster});
            }
        } else if (into_.present.contains(found.start()) && found.otherStarts.empty()) {
            return;  // its beginning was used again
        }
        into_.files.push_back(std::move(found));
    }

    void place(const DirectoryEntry& entry, const Allocation& allocation, RememberedFile& found) const {
        const bool freed = allocation.entry(entry.firstCluster).link == Allocation::Link::Free;
        const auto chain = entry.contiguous || (found.fate != Fate::Present && freed)
                               ? allocation.run(entry.firstCluster, entry.size)
                               : allocation.chain(entry.firstCluster, entry.size);
        if (chain.complete) {
            found.places = chain.ranges;
            found.placesKnown = entry.contiguous || !freed;
            // A chain that a newer file uses is not a lost one's.
            const bool usedAgain =
                std::any_of(chain.ranges.begin(), chain.ranges.end(),
                            [this](const ByteRange& range) { return into_.present.intersects(range); });
            if (found.fate == Fate::Present || !usedAgain) return;
            found.placesKnown = false;
        }
        found.places = allocation.run(entry.firstCluster, entry.size).ranges;
    }

    void otherStarts(const DirectoryEntry& entry, const Allocation& allocation, RememberedFile& found) const {
        for (std::uint32_t high = 1; high < 0x1000 && found.otherStarts.size() < kMostOtherStarts; ++high) {
            const auto cluster = high << 16 | (entry.firstCluster & 0xffffU);
            if (!allocation.valid(cluster)) break;
            if (allocation.isFree(cluster) != false)
                found.otherStarts.push_back(allocation.place(cluster).offset);
        }
    }

    const Source& source_;
    const std::function<bool()>& goOn_;
    Remembered& into_;
};

}  // namespace

std::string_view toWord(Fate fate) {
    return kWords.at(static_cast<std::size_t>(fate));
}

std::optional<Fate> fateFromWord(std::string_view word) {
    const auto found = std::find(kWords.begin(), kWords.end(), word);
    if (found == kWords.end()) return std::nullopt;
    return static_cast<Fate>(found - kWords.begin());
}

Remembered remember(const Source& source, const Survey& survey, const std::function<bool()>& goOn) {
    Remembered all;
    Rememberer rememberer(source, goOn, all);
    for (const bool live : {true, false}) {
        for (const auto& volume : survey.volumes) {
            if ((volume.state != VolumeSeen::State::Earlier) == live) rememberer.volume(volume);
        }
    }
    return all;
}

}  // namespace dreskel
