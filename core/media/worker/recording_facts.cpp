#include "media/worker/recording_facts.h"

#include <algorithm>
#include <cctype>

namespace dreskel::media {
namespace {

std::string valueOf(const AVFormatContext& context, std::initializer_list<const char*> keys) {
    for (const auto* key : keys) {
        const auto* entry = av_dict_get(context.metadata, key, nullptr, 0);
        if (entry != nullptr && *entry->value != '\0') return entry->value;
    }
    return {};
}

// "2031-05-08 11:02:41", "2031:05:08T11:02:41.000000Z" and the like; a date alone, or a year, says too
// little.
std::string isoTime(std::string text) {
    constexpr std::size_t kSeconds = 19;
    if (text.size() < kSeconds) return {};
    for (std::size_t i = 0; i < kSeconds; ++i) {
        const bool between = i == 4 || i == 7 || i == 10 || i == 13 || i == 16;
        if (!between && std::isdigit(static_cast<unsigned char>(text[i])) == 0) return {};
    }
    text[4] = text[7] = '-';
    text[10] = 'T';
    text[13] = text[16] = ':';
    const bool utc = text.back() == 'Z';
    // The clocks of cameras that were never set begin in these years.
    const auto year = text.substr(0, 4);
    if (year == "0000" || year == "1904" || year == "1970") return {};
    return text.substr(0, kSeconds) + (utc ? "Z" : "");
}

}  // namespace

RecordingFacts whatItSays(const AVFormatContext& context) {
    RecordingFacts facts;
    facts.taken = isoTime(valueOf(context, {"creation_time", "date", "DATE_RECORDED"}));
    const auto make = valueOf(context, {"make", "maker"});
    const auto model = valueOf(context, {"model"});
    facts.camera = model.empty() || model.rfind(make, 0) == 0 ? model
                   : make.empty()                             ? model
                                                              : make + " " + model;
    return facts;
}

}  // namespace dreskel::media
