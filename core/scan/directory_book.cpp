#include "scan/directory_book.h"

#include <algorithm>
#include <array>

#include "formats/registry.h"

namespace dreskel {

std::string lowerExtension(const std::string& name) {
    const auto dot = name.rfind('.');
    std::string extension = dot == std::string::npos ? std::string() : name.substr(dot + 1);
    for (auto& letter : extension) {
        if (letter >= 'A' && letter <= 'Z') letter = static_cast<char>(letter + 32);
    }
    return extension;
}

namespace {

// Kinds of files that are not walked yet, by the extensions that cameras and recorders give them.
Kind kindOfExtension(const std::string& extension) {
    constexpr std::array photos{"jpg",  "jpeg", "png",  "gif", "bmp", "tif", "tiff", "webp", "heic",
                                "heif", "hif",  "avif", "jxl", "cr2", "cr3", "crw",  "nef",  "nrw",
                                "arw",  "sr2",  "dng",  "orf", "rw2", "pef", "srw",  "3fr",  "iiq",
                                "erf",  "gpr",  "raf",  "x3f", "mrw", "jpe"};
    constexpr std::array clips{"mp4", "mov", "m4v", "3gp",  "3g2",  "avi", "mpg",  "mpeg",
                               "vob", "mod", "mts", "m2ts", "ts",   "mkv", "webm", "wmv",
                               "asf", "mxf", "flv", "dv",   "insv", "360"};
    constexpr std::array sounds{"wav",  "mp3", "aac",  "m4a", "amr", "ogg", "oga", "opus",
                                "flac", "aif", "aiff", "wma", "caf", "mid", "midi"};
    constexpr std::array sidecars{"xmp", "thm", "srt", "lrv", "sav", "ctg"};
    const auto in = [&](const auto& list) {
        return std::find(list.begin(), list.end(), extension) != list.end();
    };
    if (in(photos)) return Kind::Photo;
    if (in(clips)) return Kind::Video;
    if (in(sounds)) return Kind::Audio;
    if (in(sidecars)) return Kind::Sidecar;
    return Kind::Other;
}

std::uint64_t end(const RememberedFile& file) {
    return file.places.back().end();
}

// Of the file, not of the stretch of the card that its pieces are spread over.
std::uint64_t lengthOf(const Evidence& evidence) {
    if (evidence.places.empty()) return evidence.range.length;
    std::uint64_t length = 0;
    for (const auto& place : evidence.places) length += place.length;
    return length;
}

// Whether a file of this family may be called so. Several families may share an extension.
bool mayBeCalled(const std::string& name, const std::string& family) {
    const auto extension = lowerExtension(name);
    const auto* format = familyNamed(family);
    return format != nullptr && format->hasExtension(extension);
}

}  // namespace

bool isFormatsName(const std::string& name) {
    const auto extension = lowerExtension(name);
    const auto& all = allFormats();
    return std::any_of(all.begin(), all.end(),
                       [&](const Format* family) { return family->hasExtension(extension); });
}

void DirectoryBook::add(Remembered remembered) {
    for (const auto& range : remembered.present.ranges()) present_.add(range);
    for (const auto& range : remembered.structures.ranges()) structures_.add(range);
    for (auto& file : remembered.files) {
        byStart_.emplace(file.start(), files_.size());
        for (const auto start : file.otherStarts) byStart_.emplace(start, files_.size());
        files_.push_back(std::move(file));
    }
}

std::vector<ByteRange> DirectoryBook::placesAt(std::uint64_t start) const {
    const auto [from, to] = byStart_.equal_range(start);
    for (auto at = from; at != to; ++at) {
        const auto& file = files_[at->second];
        if (file.placesKnown && file.places.size() > 1 && file.start() == start) return file.places;
    }
    return {};
}

std::optional<std::uint64_t> DirectoryBook::lengthAt(std::uint64_t start, const std::string& family,
                                                     std::uint64_t proven) const {
    std::optional<std::uint64_t> length;
    const auto [from, to] = byStart_.equal_range(start);
    for (auto at = from; at != to; ++at) {
        const auto& file = files_[at->second];
        if (file.fate == Fate::Present || file.size < proven || !mayBeCalled(file.name, family)) continue;
        length = std::max(length.value_or(0), file.size);
    }
    return length;
}

const RememberedFile* DirectoryBook::fitting(const Finding& finding) const {
    const auto length = lengthOf(finding.evidence);
    const bool whole = finding.evidence.condition == Condition::Whole;
    const RememberedFile* best = nullptr;
    const auto rank = [&](const RememberedFile& file) {
        return (file.fate == Fate::Present ? 4 : 0) + (file.size == length ? 2 : 0) +
               (file.start() == finding.start() ? 1 : 0);
    };
    const auto [from, to] = byStart_.equal_range(finding.start());
    for (auto at = from; at != to; ++at) {
        const auto& file = files_[at->second];
        if (isFormatsName(file.name) && !mayBeCalled(file.name, finding.evidence.family)) continue;
        // A whole file that is longer than the entry says is another file, written there since.
        if (file.fate != Fate::Present && whole && file.size < length) continue;
        if (file.start() != finding.start() && file.size != length)
            continue;  // one of several possible starts
        if (best == nullptr || rank(file) > rank(*best)) best = &file;
    }
    return best;
}

bool DirectoryBook::apply(Finding& finding) const {
    const auto* file = fitting(finding);
    if (file == nullptr) return false;
    finding.name = file->name;
    finding.folder = file->folder;
    finding.byDirectory = true;
    finding.fate = file->fate;
    finding.modified = file->modified.empty() ? file->created : file->modified;
    auto& evidence = finding.evidence;
    const auto length = lengthOf(evidence);
    if (length == file->size) return true;
    const auto told =
        "the directory says " + grouped(file->size) + " bytes, the file itself " + grouped(length);
    if (std::find(finding.notes.begin(), finding.notes.end(), told) == finding.notes.end())
        finding.notes.push_back(told);
    const bool whole = evidence.condition == Condition::Whole;
    // What follows a file's own end belongs to it when the directory says so; a damaged file ends where the
    // directory says at the latest.
    const bool contiguous = evidence.places.empty();
    if (contiguous && (whole ? file->size > evidence.range.length && file->placesKnown
                             : file->size < evidence.range.length)) {
        evidence.range.length = file->size;
        evidence.proven = std::min(evidence.proven, file->size);
    }
    return true;
}

Finding DirectoryBook::promised(const RememberedFile& file) {
    Finding finding;
    const auto extension = lowerExtension(file.name);
    finding.kind = kindOfExtension(extension);
    finding.format = extension.empty() || extension.size() > 8 ? "unknown" : extension;
    if (extension == "jpg" || extension == "jpe") finding.format = "jpeg";
    finding.name = file.name;
    finding.folder = file.folder;
    finding.modified = file.modified.empty() ? file.created : file.modified;
    finding.byDirectory = true;
    finding.fate = file.fate;
    finding.condition = Condition::Unchecked;
    for (const auto& place : file.places)
        finding.pieces.push_back({PieceFrom::Card, place.offset, place.length, {}});
    finding.evidence.range = {file.start(), end(file) > file.start() ? end(file) - file.start() : file.size};
    finding.evidence.proven = finding.evidence.range.length;
    if (file.places.size() > 1) finding.evidence.places = file.places;
    return finding;
}

}  // namespace dreskel
