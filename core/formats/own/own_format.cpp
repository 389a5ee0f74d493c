#include "formats/own/own_format.h"

#include <algorithm>
#include <charconv>

#include "formats/registry.h"
#include "formats/walk.h"

namespace dreskel::own {
namespace {

constexpr std::size_t kOwnPortion = 1 << 20;
constexpr std::size_t kLeastFixed = 4;     // fewer bytes are met by chance on every card
constexpr std::size_t kLeastFixedEnd = 3;  // an end is looked for in one file only
constexpr std::uint64_t kMostBytes = 1ULL << 40;

class OwnWalk : public Walk {
  public:
    explicit OwnWalk(const Definition& definition) : Walk(kOwnPortion), definition_(definition) {}

  private:
    void visit(Bytes bytes, bool last) override {
        accept();
        const auto room = definition_.mostBytes - position();
        const auto within =
            bytes.first(static_cast<std::size_t>(std::min<std::uint64_t>(bytes.size(), room)));
        const bool over = last || within.size() < bytes.size() || within.size() == room;
        if (definition_.ends) {
            const auto& end = *definition_.ends;
            for (std::size_t at = 0; at + end.bytes.size() <= within.size(); ++at) {
                if (!end.fits(within.subspan(at))) continue;
                endFound_ = true;
                advance(at + end.bytes.size());
                return close();
            }
        }
        const auto overlap = definition_.ends && !over ? definition_.ends->bytes.size() - 1 : 0;
        advance(within.size() - std::min(within.size(), overlap));
        if (over) close();
    }
    void describe(Measured& into) override {
        into.format = definition_.name;
        into.kind = definition_.kind;
        into.needsDecoder = false;
        into.condition = Condition::Unchecked;
        into.notes.emplace_back("a format of your own: found by its signature, nothing of it is decoded");
        into.mediaData.push_back({0, into.length});
        // With an end that was found what lies before it is the file's, previews too.
        into.holdsPhotos = endFound_;
        if (endFound_) return;
        into.proven = 1;
        into.notes.emplace_back(definition_.ends
                                    ? "its end was not found: cut at the next file, or at its largest size"
                                    : "its end is not known: cut at the next file, or at its largest size");
    }

    const Definition& definition_;
    bool endFound_ = false;
};

class OwnFormat : public Format {
  public:
    explicit OwnFormat(Definition definition) : definition_(std::move(definition)) {}

    std::string_view name() const override { return definition_.name; }
    std::vector<std::string_view> formats() const override { return {definition_.name}; }
    Kind kindOf(std::string_view) const override { return definition_.kind; }
    std::string_view extension(std::string_view) const override { return definition_.extension; }
    bool matches(Bytes head) const override {
        return std::all_of(definition_.begins.begin(), definition_.begins.end(), [&](const Pattern& pattern) {
            return pattern.fits(slice(head, pattern.at, pattern.bytes.size()));
        });
    }
    std::unique_ptr<Measure> measure() const override { return std::make_unique<OwnWalk>(definition_); }

  private:
    Definition definition_;
};

bool isWord(const std::string& word, std::size_t most) {
    return !word.empty() && word.size() <= most && std::all_of(word.begin(), word.end(), [](char letter) {
        return (letter >= 'a' && letter <= 'z') || (letter >= '0' && letter <= '9') || letter == '-';
    });
}

}  // namespace

bool Pattern::fits(Bytes place) const {
    if (place.size() < bytes.size()) return false;
    for (std::size_t i = 0; i < bytes.size(); ++i) {
        if (bytes[i] && *bytes[i] != place[i]) return false;
    }
    return true;
}

std::size_t Pattern::fixed() const {
    return static_cast<std::size_t>(
        std::count_if(bytes.begin(), bytes.end(), [](const auto& byte) { return byte.has_value(); }));
}

std::optional<Pattern> patternFrom(const std::string& text) {
    Pattern pattern;
    for (std::size_t at = 0; at < text.size();) {
        if (text[at] == ' ') {
            ++at;
            continue;
        }
        if (at + 2 > text.size()) return std::nullopt;
        if (text[at] == '?' && text[at + 1] == '?') {
            pattern.bytes.emplace_back(std::nullopt);
        } else {
            std::uint8_t value = 0;
            const auto* end = text.data() + at + 2;
            if (std::from_chars(text.data() + at, end, value, 16).ptr != end) return std::nullopt;
            pattern.bytes.emplace_back(value);
        }
        at += 2;
    }
    return pattern.bytes.empty() ? std::nullopt : std::optional(pattern);
}

std::string toText(const Pattern& pattern) {
    constexpr std::string_view kDigits = "0123456789abcdef";
    std::string text;
    for (const auto& byte : pattern.bytes) {
        if (!text.empty()) text += ' ';
        text += byte ? kDigits[*byte >> 4] : '?';
        text += byte ? kDigits[*byte & 15U] : '?';
    }
    return text;
}

std::string faultOf(const Definition& definition) {
    if (!isWord(definition.name, 24)) return "\"name\" must be lower-case letters, digits and -, at most 24";
    for (const auto* format : builtInFormats()) {
        const auto names = format->formats();
        if (format->name() == definition.name ||
            std::find(names.begin(), names.end(), definition.name) != names.end())
            return "\"" + definition.name + "\" is a format that is known already";
    }
    if (!isWord(definition.extension, 8))
        return "\"extension\" must be lower-case letters and digits, at most 8";
    if (definition.begins.empty()) return "\"begins\" must hold at least one pattern";
    std::size_t fixed = 0;
    std::size_t telling = 0;
    for (const auto& pattern : definition.begins) {
        if (pattern.at > Format::kHead || pattern.bytes.size() > Format::kHead - pattern.at)
            return "a pattern in \"begins\" must lie within the first 4096 bytes";
        fixed += pattern.fixed();
        for (const auto& byte : pattern.bytes) telling += byte && *byte != 0 && *byte != 0xff ? 1 : 0;
    }
    if (fixed < kLeastFixed || telling < 2)
        return "\"begins\" must fix at least 4 bytes, 2 of them neither 00 nor ff: less is met by chance";
    if (definition.ends && definition.ends->fixed() < kLeastFixedEnd)
        return "\"ends\" must fix at least 3 bytes";
    if (definition.mostBytes == 0 || definition.mostBytes > kMostBytes)
        return "\"most_bytes\" must be at least 1 and at most 2^40";
    return {};
}

std::shared_ptr<const Format> makeFormat(Definition definition) {
    return std::make_shared<OwnFormat>(std::move(definition));
}

}  // namespace dreskel::own
