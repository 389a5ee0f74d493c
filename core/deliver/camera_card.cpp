#include "deliver/camera_card.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <filesystem>

#include "formats/registry.h"

namespace dreskel {
namespace {

// Many cameras stop at so many files a folder, though DCF allows 9999.
constexpr int kFilesInAFolder = 999, kFirstFolder = 100, kLastFolder = 999;

// Three capital letters or digits (3.2.4).
std::string cameraExtensionOf(const Finding& finding) {
    if (finding.format == "heic") return "HIF";
    const auto* format = formatFor(finding.format);
    std::string extension =
        format == nullptr ? finding.format : std::string(format->extension(finding.format));
    const auto dot = finding.name.rfind('.');
    if (dot != std::string::npos && finding.name.size() - dot == 4) extension = finding.name.substr(dot + 1);
    std::string made;
    for (const char c : extension) {
        const auto letter = std::toupper(static_cast<unsigned char>(c));
        const bool allowed = (letter >= 'A' && letter <= 'Z') || (letter >= '0' && letter <= '9');
        if (allowed && made.size() < 3) made.push_back(static_cast<char>(letter));
    }
    if (made == "JPE") return "JPG";
    return made.empty() ? "BIN" : made;
}

std::string digits(int number, int count) {
    auto text = std::to_string(number);
    return text.insert(0, static_cast<std::size_t>(std::max(0, count - static_cast<int>(text.size()))), '0');
}

}  // namespace

std::map<std::int64_t, std::string> cameraPaths(const std::vector<Finding>& files) {
    std::map<std::int64_t, const Finding*> known;
    for (const auto& file : files) known[file.id] = &file;
    // What belongs to a file that is saved too shares its number; chapters and twins of a clip have their
    // own.
    std::map<std::int64_t, std::vector<const Finding*>> groups;
    std::vector<const Finding*> firsts;
    for (const auto& file : files) {
        const bool belongs = file.belongsTo && *file.belongsTo != file.id &&
                             known.contains(*file.belongsTo) && !known.at(*file.belongsTo)->belongsTo &&
                             known.at(*file.belongsTo)->format != file.format;
        groups[belongs ? *file.belongsTo : file.id].push_back(&file);
        if (!belongs) firsts.push_back(&file);
    }
    std::stable_sort(firsts.begin(), firsts.end(), [](const Finding* a, const Finding* b) {
        const auto key = [](const Finding* f) {
            return std::tuple(f->description.taken.empty(), f->description.taken, f->start());
        };
        return key(a) < key(b);
    });
    std::map<std::int64_t, std::string> paths;
    int number = 0;
    for (const auto* first : firsts) {
        const int folder = std::min(kFirstFolder + number / kFilesInAFolder, kLastFolder);
        const auto stem = "DCIM/" + digits(folder, 3) + "SAVED/SAVE" + digits(number % 9999 + 1, 4) + ".";
        ++number;
        std::map<std::string, int> taken;
        for (const auto* file : groups.at(first->id)) {
            auto extension = cameraExtensionOf(*file);
            // Two of a kind with one file: the second cannot share its number.
            if (++taken[extension] > 1) extension = digits(taken[extension], 3);
            paths[file->id] = stem + extension;
        }
    }
    return paths;
}

Status checkEmpty(const std::string& destination) {
    namespace fs = std::filesystem;
    std::error_code failed;
    if (!fs::exists(destination, failed)) return Done{};
    constexpr std::array<std::string_view, 3> kAllowed{"System Volume Information", "lost+found",
                                                       ".Trash-1000"};
    for (const auto& entry : fs::directory_iterator(destination, failed)) {
        const auto name = entry.path().filename().string();
        if (std::find(kAllowed.begin(), kAllowed.end(), name) != kAllowed.end()) continue;
        return Error{Fault::DestinationRefused,
                     "Files for a camera go to an empty card only; there is " + name, destination,
                     "Format a card in the camera and choose that, or choose an empty folder"};
    }
    return Done{};
}

std::vector<std::string> cameraDoubts(const std::vector<Finding>& files) {
    std::size_t damaged = 0;
    std::size_t unusual = 0;
    std::size_t rebuilt = 0;
    for (const auto& file : files) {
        constexpr std::array<std::string_view, 8> kUsual{"jpeg", "mp4", "mov",  "avi",
                                                         "m2ts", "wav", "heic", "xmp"};
        const auto* format = formatFor(file.format);
        const bool raw = format != nullptr && (format->name() == "tiff" || format->name() == "raw") &&
                         file.format != "tiff";
        if (file.condition != Condition::Whole) ++damaged;
        if (!raw && std::find(kUsual.begin(), kUsual.end(), file.format) == kUsual.end()) ++unusual;
        if (std::any_of(file.pieces.begin(), file.pieces.end(),
                        [](const Piece& piece) { return piece.from == PieceFrom::Made; }))
            ++rebuilt;
    }
    std::vector<std::string> doubts;
    const auto tell = [&](std::size_t count, const std::string& what) {
        if (count > 0) doubts.push_back(std::to_string(count) + (count == 1 ? " file " : " files ") + what);
    };
    tell(unusual, "of kinds that cameras do not write and seldom show");
    tell(damaged, "that are not whole; a camera may stop at them");
    tell(rebuilt, "with an index that was written anew; a camera may want its own");
    return doubts;
}

}  // namespace dreskel
