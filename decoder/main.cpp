// dreskel-decoder: the worker process. Started by Dreskel with a socket at descriptor 3 and the source,
// opened for reading, at 4 and memory for pictures at 5; decodes what it is asked to and nothing else.
#include <fcntl.h>
#include <libheif/heif.h>
#include <unistd.h>

#include <cstdio>
#include <exception>

#include "decoder/confinement.h"
#include "decoder/orders.h"
#include "media/messages.h"
#include "media/worker/av_input.h"
#include "media/worker/clip_player.h"
#include "media/worker/photo_parts.h"
#include "media/worker/still_photo.h"
#include "media/worker/tasks.h"

namespace {

constexpr int kSocket = 3;
constexpr int kSource = 4;
constexpr int kPictures = 5;

// Libraries write what they think of a damaged file to the standard error, where it would stand among our own
// words. Where those still go.
int silenceLibraries() {
    const int words = ::dup(STDERR_FILENO);
#ifndef __SANITIZE_ADDRESS__
    if (const int nowhere = ::open("/dev/null", O_WRONLY | O_CLOEXEC); nowhere >= 0)
        ::dup2(nowhere, STDERR_FILENO);
#endif
    return words;
}

}  // namespace

int main() {
    using namespace dreskel;
    auto source = sourceFromDescriptor(kSource, "source");
    if (!source) return 3;
    // What it loads, and its plugins, must be there before nothing can be opened any more.
    heif_init(nullptr);
    media::watchLibraryLog();
    const int words = silenceLibraries();
    if (!confine()) ::dprintf(words, "dreskel-decoder: the kernel filters no calls here\n");
    const auto alive = [] { media::sendMessage(kSocket, {{{"alive", true}}, {}}); };
    media::SharedPictures memory;
    memory.take(kPictures);
    media::ClipPlayer player(source.value(), memory);
    media::PhotoParts parts(source.value());
    media::Message request;
    while (media::receiveMessage(kSocket, request)) {
        media::Message reply{{{"opened", false}, {"errors", 1}, {"first_error", "an impossible request"}},
                             {}};
        CardView card(source.value());
        try {
            obeyOrders(card, request.head);
            const auto task = request.head.value("op", std::string());
            if (task == "check") {
                const auto format = request.head.value("format", std::string());
                const bool photo = media::isRaw(format) || media::isHeif(format);
                reply = photo ? media::checkPhoto(card, request) : media::checkClip(card, request, alive);
            }
            if (task == "frames") reply = media::clipFrames(card, request, alive);
            if (task == "sound") reply = media::soundLengths(card, request);
            if (task == "play") reply = player.play(request);
            if (task == "photo") reply = media::decodePhoto(card, request);
            if (task == "part") reply = parts.part(request);
            if (task != "part") parts.letGo();
        } catch (const std::exception& failure) {
            reply.head = {
                {"opened", false}, {"errors", 1}, {"first_error", failure.what()}, {"why", failure.what()}};
            reply.payload.clear();
        }
        if (!media::sendMessage(kSocket, reply)) break;
    }
    return 0;
}
