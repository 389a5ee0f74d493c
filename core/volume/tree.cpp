#include "volume/tree.h"

#include <algorithm>
#include <deque>
#include <set>

namespace dreskel {
namespace {

struct Open {
    std::vector<ByteRange> ranges;
    std::string path;
    int depth = 0;
    bool lost = false;
};

std::vector<std::uint8_t> bytesOf(const Source& source, const std::vector<ByteRange>& ranges,
                                  bool& complete) {
    std::vector<std::uint8_t> bytes;
    for (const auto& range : ranges) {
        const auto from = bytes.size();
        bytes.resize(from + static_cast<std::size_t>(range.length));
        const auto got = source.read(range.offset, MutableBytes(bytes).subspan(from)).count;
        if (got < range.length) complete = false;
    }
    return bytes;
}

std::uint64_t placeOf(const std::vector<ByteRange>& ranges, std::uint64_t at) {
    for (const auto& range : ranges) {
        if (at < range.length) return range.offset + at;
        at -= range.length;
    }
    return 0;
}

}  // namespace

Tree readTree(const Source& source, const VolumeSeen& volume, Allocation& allocation,
              const TreeLimits& limits, const std::function<bool()>& goOn) {
    const auto& facts = volume.facts;
    const auto kind = facts.kind == "exFAT" ? DirectoryKind::ExFat : DirectoryKind::Fat;
    Tree tree;
    std::set<std::uint64_t> seen;
    std::deque<Open> open;
    if (facts.rootLength > 0) {
        open.push_back({{{volume.offset + facts.rootStart, facts.rootLength}}, {}, 0, false});
    } else if (allocation.valid(facts.rootCluster)) {
        open.push_back({allocation.chain(facts.rootCluster, limits.folderBytes).ranges, {}, 0, false});
    }
    while (!open.empty()) {
        if (!goOn() || seen.size() >= limits.folders || tree.files.size() >= limits.files) {
            tree.complete = false;
            break;
        }
        const auto folder = std::move(open.front());
        open.pop_front();
        if (folder.ranges.empty() || !seen.insert(folder.ranges.front().offset).second) continue;
        tree.folders.insert(tree.folders.end(), folder.ranges.begin(), folder.ranges.end());
        const auto bytes = bytesOf(source, folder.ranges, tree.complete);
        auto content = readDirectory(bytes, kind);
        // A deleted folder whose clusters were used again is none any more.
        if (folder.lost && kind == DirectoryKind::Fat && !content.hasDots) continue;
        if (folder.depth == 0) {
            tree.label = content.label;
            if (content.bitmapCluster != 0) {
                allocation.setBitmap(allocation.chain(content.bitmapCluster, content.bitmapLength).ranges);
            }
        }
        for (auto& entry : content.entries) {
            const bool lost = folder.lost || entry.deleted;
            if (!entry.folder) {
                ++(lost ? tree.deleted : tree.present);
                const auto at = placeOf(folder.ranges, entry.at);
                tree.files.push_back({std::move(entry), folder.path, folder.lost, at});
                continue;
            }
            if (folder.depth >= limits.depth || !allocation.valid(entry.firstCluster)) continue;
            const auto path = folder.path.empty() ? entry.name : folder.path + "/" + entry.name;
            Open next{{}, path, folder.depth + 1, lost};
            if (entry.contiguous) {
                next.ranges =
                    allocation.run(entry.firstCluster, std::min(entry.size, limits.folderBytes)).ranges;
            } else if (entry.deleted && allocation.entry(entry.firstCluster).link == Allocation::Link::Free) {
                // Its chain was freed: the first cluster is all that is known of it.
                next.ranges = {allocation.place(entry.firstCluster)};
            } else {
                next.ranges = allocation.chain(entry.firstCluster, limits.folderBytes).ranges;
            }
            open.push_back(std::move(next));
        }
    }
    return tree;
}

}  // namespace dreskel
