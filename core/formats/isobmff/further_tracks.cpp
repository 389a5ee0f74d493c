#include <algorithm>

#include "formats/isobmff/boxes.h"
#include "formats/isobmff/movie.h"

namespace dreskel::isobmff {
namespace {

// By the handler (ISO/IEC 14496-12, 8.4.3; QuickTime File Format, "Handler Reference Atoms") and, where that
// is "meta", by the coding; the codings of telemetry are those that recorders were seen to write.
std::string nameOf(const Track& track) {
    const auto handler = track.handler;
    const auto codec = track.codec;
    if (handler == fourCc("tmcd") || codec == fourCc("tmcd")) return "a timecode";
    if (handler == fourCc("text") || handler == fourCc("sbtl") || handler == fourCc("subt") ||
        handler == fourCc("clcp"))
        return "text (" + codecName(codec) + ")";
    if (handler == fourCc("meta") || codec == fourCc("gpmd") || codec == fourCc("mebx") ||
        codec == fourCc("rtmd") || codec == fourCc("camm"))
        return "telemetry (" + codecName(codec) + ")";
    return codec == 0 ? "" : "a track of data (" + codecName(codec) + ")";
}

}  // namespace

std::string furtherTracks(const Movie& movie) {
    std::vector<std::string> names;
    const Track* first = nullptr;
    for (const auto& track : movie.tracks) {
        if (track.kind == TrackKind::Audio) continue;
        if (track.kind == TrackKind::Other) {
            names.push_back(nameOf(track));
        } else if (first == nullptr) {
            first = &track;
        } else if (track.width == first->width && track.height == first->height) {
            names.emplace_back("a twin picture of the same size");
        } else if (track.samples > 1) {
            names.emplace_back("a second picture of another size");
        }
    }
    std::string text;
    for (auto at = names.begin(); at != names.end(); ++at) {
        if (at->empty() || std::find(names.begin(), at, *at) != at) continue;
        if (!text.empty()) text += ", ";
        text += *at;
    }
    return text;
}

}  // namespace dreskel::isobmff
