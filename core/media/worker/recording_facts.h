// What a container says of the recording beside its streams: when and with what it was taken.
#pragma once

extern "C" {
#include <libavformat/avformat.h>
}

#include <string>

namespace dreskel::media {

struct RecordingFacts {
    std::string taken;  // ISO 8601; empty when it does not say
    std::string camera;
};

RecordingFacts whatItSays(const AVFormatContext& context);

}  // namespace dreskel::media
