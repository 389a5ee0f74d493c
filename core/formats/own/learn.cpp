#include "formats/own/learn.h"

#include <algorithm>
#include <filesystem>
#include <fstream>

#include "formats/registry.h"

namespace dreskel::own {
namespace {

constexpr std::size_t kLearnHead = Format::kHead;
constexpr std::size_t kTail = 64;
constexpr std::size_t kMostFixed = 48;  // of the beginning; more would tell single cameras apart, or days
constexpr std::size_t kMostEnd = 16;
constexpr std::size_t kLongestGap = 8;  // between two stretches of one pattern
constexpr std::uint64_t kRoom = 4;      // times the largest sample a file may be
constexpr std::uint64_t kMegabyte = 1 << 20;

using Common = std::vector<std::optional<std::uint8_t>>;

// The bytes that are the same in all, place by place. By chance two files agree in one byte of 256: with few
// samples a byte that stands alone is no evidence.
Common commonOf(const std::vector<Bytes>& all) {
    auto length = all.front().size();
    for (const auto& one : all) length = std::min(length, one.size());
    Common common(length);
    for (std::size_t i = 0; i < length; ++i) {
        const bool same =
            std::all_of(all.begin(), all.end(), [&](Bytes one) { return one[i] == all.front()[i]; });
        if (same) common[i] = all.front()[i];
    }
    if (all.size() >= 4) return common;
    for (std::size_t i = 0; i < length; ++i) {
        const bool before = i > 0 && common[i - 1];
        const bool after = i + 1 < length && common[i + 1];
        if (!before && !after) common[i].reset();
    }
    return common;
}

bool telling(const std::optional<std::uint8_t>& byte) {
    return byte && *byte != 0 && *byte != 0xff;
}

// From the front: patterns that begin and end with bytes that tell something.
std::vector<Pattern> patternsOf(const Common& common) {
    std::vector<Pattern> patterns;
    std::size_t fixed = 0;
    std::size_t lastTelling = 0;
    for (std::size_t i = 0; i < common.size() && fixed < kMostFixed; ++i) {
        if (!telling(common[i])) continue;
        if (patterns.empty() || i - lastTelling > kLongestGap) {
            patterns.push_back({i, {}});
        } else {
            for (auto between = lastTelling + 1; between < i; ++between)
                patterns.back().bytes.push_back(common[between]);
        }
        patterns.back().bytes.push_back(common[i]);
        lastTelling = i;
        ++fixed;
    }
    // A single byte far behind is no evidence beside the others.
    std::erase_if(patterns, [&](const Pattern& pattern) { return pattern.at > 0 && pattern.fixed() < 3; });
    return patterns;
}

}  // namespace

Result<Sample> readSample(const std::string& path) {
    Sample sample{path, {}, {}, 0};
    std::ifstream file(path, std::ios::binary | std::ios::ate);
    const auto size = file ? static_cast<std::streamoff>(file.tellg()) : 0;
    if (size <= 0)
        return Error{Fault::Failed, "This sample cannot be read, or is empty", path, "Choose another one"};
    sample.size = static_cast<std::uint64_t>(size);
    const auto part = [&](std::uint64_t from, std::uint64_t count) {
        std::vector<std::uint8_t> bytes(static_cast<std::size_t>(count));
        file.seekg(static_cast<std::streamoff>(from));
        file.read(reinterpret_cast<char*>(bytes.data()), static_cast<std::streamsize>(count));
        return bytes;
    };
    sample.head = part(0, std::min<std::uint64_t>(kLearnHead, sample.size));
    const auto tail = std::min<std::uint64_t>(kTail, sample.size);
    sample.tail = part(sample.size - tail, tail);
    return sample;
}

Result<Definition> learn(const std::vector<Sample>& samples, const std::string& name, Kind kind) {
    if (samples.size() < 2)
        return Error{Fault::Usage, "One sample says nothing of what others have in common with it", "",
                     "Give two or more files of the same camera, taken at different times"};
    std::vector<Bytes> heads;
    std::vector<std::vector<std::uint8_t>> reversed;
    std::uint64_t largest = 0;
    for (const auto& sample : samples) {
        for (const auto* format : builtInFormats()) {
            if (format->matches(sample.head))
                return Error{
                    Fault::Usage,
                    "This file is of the family " + std::string(format->name()) + ", which is found already",
                    sample.path, ""};
        }
        heads.emplace_back(sample.head);
        reversed.emplace_back(sample.tail.rbegin(), sample.tail.rend());
        largest = std::max(largest, sample.size);
    }
    Definition found;
    found.name = name;
    found.kind = kind;
    found.begins = patternsOf(commonOf(heads));
    found.mostBytes = (largest * kRoom / kMegabyte + 1) * kMegabyte;
    const auto extension = std::filesystem::path(samples.front().path).extension().string();
    for (const char letter : extension.substr(extension.empty() ? 0 : 1))
        found.extension += letter >= 'A' && letter <= 'Z' ? static_cast<char>(letter + 32) : letter;
    if (found.extension.empty()) found.extension = name.substr(0, 8);

    // The end: what they share without a gap, back from the last byte.
    const auto tails = commonOf({reversed.begin(), reversed.end()});
    Pattern end;
    for (const auto& byte : tails) {
        if (!byte || end.bytes.size() == kMostEnd) break;
        end.bytes.insert(end.bytes.begin(), byte);
    }
    // Zeros in front of it are no evidence, and padding is no end.
    while (!end.bytes.empty() && !telling(end.bytes.front())) end.bytes.erase(end.bytes.begin());
    if (std::count_if(end.bytes.begin(), end.bytes.end(), telling) >= 3) found.ends = end;

    if (const auto fault = faultOf(found); !fault.empty())
        return Error{Fault::Failed, "These files have too little in common: " + fault, samples.front().path,
                     "Give samples of one camera and one kind"};
    return found;
}

}  // namespace dreskel::own
