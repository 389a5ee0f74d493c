#include "deliver/told.h"

#include <array>
#include <optional>
#include <unordered_map>
#include <vector>

namespace dreskel {
namespace {

constexpr std::string_view kThinSpace = "\u202f";  // between the thousands

bool isDigit(char letter) {
    return letter >= '0' && letter <= '9';
}
bool isLetter(char letter) {
    return (letter >= 'a' && letter <= 'z') || (letter >= 'A' && letter <= 'Z');
}
bool beginsWith(std::string_view text, std::size_t at, std::string_view what) {
    return text.substr(at, what.size()) == what;
}

// How long the number at a place is, with its unit; 0 where there is none.
std::size_t numberAt(std::string_view text, std::size_t at) {
    if (!isDigit(text[at]) ||
        (at > 0 && (isLetter(text[at - 1]) || isDigit(text[at - 1]) || text[at - 1] == '.')))
        return 0;
    auto end = at;
    const auto digits = [&] {
        while (end < text.size() && isDigit(text[end])) ++end;
    };
    digits();
    while (beginsWith(text, end, kThinSpace)) {
        end += kThinSpace.size();
        digits();
    }
    if (end + 1 < text.size() && text[end] == '.' && isDigit(text[end + 1])) {
        ++end;
        digits();
    }
    for (const std::string_view unit : {" kB", " MB", " GB", " TB"}) {
        const auto behind = end + unit.size();
        if (beginsWith(text, end, unit) && (behind == text.size() || !isLetter(text[behind])))
            return behind - at;
    }
    return end - at;
}

std::size_t nameAt(std::string_view text, std::size_t at) {
    if (at > 0 && isLetter(text[at - 1])) return 0;
    for (const std::string_view name : {"exFAT", "FAT12", "FAT16", "FAT32", "NTFS", "ext2", "ext3", "ext4"}) {
        if (beginsWith(text, at, name)) return name.size();
    }
    return 0;
}

std::size_t quoteAt(std::string_view text, std::size_t at) {
    for (const auto& [opens, closes] :
         {std::pair<std::string_view, std::string_view>{"“", "”"}, {"\"", "\""}}) {
        if (!beginsWith(text, at, opens)) continue;
        const auto end = text.find(closes, at + opens.size());
        if (end != std::string_view::npos) return end + closes.size() - at;
    }
    return 0;
}

std::string withDecimalComma(std::string number) {
    const auto point = number.find('.');
    if (point != std::string::npos && isDigit(number[0])) number[point] = ',';
    return number;
}

// A sentence with %1, %2 … for what changes in it, and what that was.
struct Form {
    std::string form;
    std::vector<std::string> values;
};
Form formOf(std::string_view sentence) {
    Form made;
    for (std::size_t at = 0; at < sentence.size();) {
        std::size_t length = numberAt(sentence, at);
        if (length == 0) length = nameAt(sentence, at);
        if (length == 0) length = quoteAt(sentence, at);
        if (length == 0) {
            made.form += sentence[at++];
            continue;
        }
        made.values.push_back(withDecimalComma(std::string(sentence.substr(at, length))));
        made.form += '%' + std::to_string(made.values.size());
        at += length;
    }
    return made;
}

std::optional<std::string> whole(std::string_view sentence) {
    static const auto known = [] {
        std::unordered_map<std::string_view, std::string_view> forms;
        for (const auto& each : germanForms()) forms.emplace(each.form, each.words);
        return forms;
    }();
    if (const auto found = known.find(sentence); found != known.end()) return std::string(found->second);
    const auto form = formOf(sentence);
    const auto found = known.find(form.form);
    return found == known.end() ? std::nullopt
                                : std::optional(filled(std::string(found->second), form.values));
}

// Nothing where no part of it is known. Sentences have few parts; what a card puts into one may have many.
std::optional<std::string> inParts(std::string_view sentence, int depth = 0) {
    constexpr int kDeepest = 5;
    if (auto known = whole(sentence); known || depth == kDeepest) return known;
    for (const std::string_view between : {". ", "; ", ": ", ", "}) {
        const auto at = sentence.rfind(between);
        if (at == std::string_view::npos || at == 0) continue;
        const auto before = sentence.substr(0, at), behind = sentence.substr(at + between.size());
        const auto front = inParts(before, depth + 1), rest = inParts(behind, depth + 1);
        if (!front && !rest) continue;
        return front.value_or(std::string(before)) + std::string(between) +
               rest.value_or(std::string(behind));
    }
    return std::nullopt;
}

}  // namespace

std::string told(std::string_view sentence, Language language) {
    if (language == Language::English || sentence.empty()) return std::string(sentence);
    const bool stop = sentence.back() == '.';
    const auto words = inParts(stop ? sentence.substr(0, sentence.size() - 1) : sentence);
    return words ? *words + (stop ? "." : "") : std::string(sentence);
}

}  // namespace dreskel
