#include "scan/open_files.h"

#include <algorithm>

namespace dreskel {

std::shared_ptr<OpenFiles::Open> OpenFiles::open(std::uint64_t start) {
    auto file = std::make_shared<Open>(start);
    open_.emplace(start, file);
    return file;
}

void OpenFiles::close(const std::shared_ptr<Open>& file) {
    for (auto [at, end] = open_.equal_range(file->start_); at != end; ++at) {
        if (at->second == file) {
            open_.erase(at);
            return;
        }
    }
}

bool OpenFiles::holds(std::uint64_t start) const {
    const auto first = open_.lower_bound(start - std::min(start, kFurthest));
    return std::any_of(first, open_.lower_bound(start), [start](const auto& entry) {
        const auto& file = *entry.second;
        const std::uint64_t end = file.end_;
        return end == Open::kUnknown || (start < end && end - file.start_ <= kFurthest);
    });
}

void OpenFiles::add(Examined examined, std::vector<Examined>& done) {
    const auto start = examined.candidate.offset;
    const bool inOnePiece = examined.places.empty();
    if (inOnePiece && held_.size() < kMost && holds(start)) {
        held_.emplace(start, std::move(examined));
    } else {
        done.push_back(std::move(examined));
    }
}

void OpenFiles::release(std::vector<Examined>& done) {
    const bool tooMany = held_.size() >= kMost;
    for (auto at = held_.begin(); at != held_.end();) {
        if (!tooMany && holds(at->first)) {
            ++at;
            continue;
        }
        done.push_back(std::move(at->second));
        at = held_.erase(at);
    }
}

}  // namespace dreskel
