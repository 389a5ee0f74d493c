// dreskel-decoder: the worker process. Started by Dreskel with a socket at descriptor 3 and the source,
// opened for reading, at 4; decodes what it is asked to and nothing else.
#include <signal.h>
#include <sys/prctl.h>
#include <sys/resource.h>

#include <exception>

#include "base/limits.h"
#include "media/messages.h"
#include "media/worker/av_input.h"
#include "media/worker/still_photo.h"
#include "media/worker/tasks.h"

namespace {

constexpr int kSocket = 3;
constexpr int kSource = 4;

void limit(int resource, std::uint64_t most) {
    const rlimit bound{most, most};
    ::setrlimit(static_cast<__rlimit_resource>(resource), &bound);
}

// Ends with its parent, cannot fill the memory, cannot write a file, cannot open one more.
void confine() {
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    ::prctl(PR_SET_NO_NEW_PRIVS, 1, 0, 0, 0);
    limit(RLIMIT_FSIZE, 0);
    limit(RLIMIT_CORE, 0);
#if !defined(__SANITIZE_ADDRESS__)
    // The sanitizers need address space, and descriptors to look at memory with.
    limit(RLIMIT_AS, dreskel::limits::kDecoderMemory);
    limit(RLIMIT_NOFILE, 6);
#endif
}

}  // namespace

int main() {
    using namespace dreskel;
    auto source = sourceFromDescriptor(kSource, "source");
    if (!source) return 3;
    confine();
    media::watchLibraryLog();
    const auto alive = [] { media::sendMessage(kSocket, {{{"alive", true}}, {}}); };
    media::Message request;
    while (media::receiveMessage(kSocket, request)) {
        media::Message reply{{{"opened", false}, {"errors", 1}, {"first_error", "an impossible request"}},
                             {}};
        CardView card(source.value());
        try {
            const auto task = request.head.value("op", std::string());
            if (task == "check") {
                const auto format = request.head.value("format", std::string());
                const bool photo = media::isRaw(format) || media::isHeif(format);
                reply = photo ? media::checkPhoto(card, request.head)
                              : media::checkClip(card, request.head, alive);
            }
            if (task == "frames") reply = media::clipFrames(card, request.head, alive);
            if (task == "photo") reply = media::decodePhoto(card, request.head);
        } catch (const std::exception& failure) {
            reply.head = {
                {"opened", false}, {"errors", 1}, {"first_error", failure.what()}, {"why", failure.what()}};
            reply.payload.clear();
        }
        if (!media::sendMessage(kSocket, reply)) break;
    }
    return 0;
}
