#include "media/decoder_process.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <sstream>

#include "base/limits.h"
#include "media/messages.h"

extern char** environ;

namespace dreskel::media {
namespace {

Picture pictureFrom(const nlohmann::json& head, const std::vector<std::uint8_t>& payload, std::size_t at) {
    Picture picture;
    picture.width = head.value("width", 0U);
    picture.height = head.value("height", 0U);
    const auto size = std::size_t{picture.width} * picture.height * 3;
    if (size == 0 || at + size > payload.size()) return {};
    picture.rgb.assign(payload.begin() + static_cast<std::ptrdiff_t>(at),
                       payload.begin() + static_cast<std::ptrdiff_t>(at + size));
    return picture;
}

// What the worker says of a picture in the memory that is shared, and may have got wrong.
std::optional<PlayedPicture> playedFrom(const nlohmann::json& told, Bytes shared) {
    PlayedPicture picture;
    picture.at = told.value("at", 0.0);
    picture.width = told.value("width", 0U);
    picture.height = told.value("height", 0U);
    picture.stride = told.value("stride", std::size_t{0});
    const auto offset = told.value("offset", std::size_t{0});
    if (picture.width == 0 || picture.height == 0 || offset > shared.size() ||
        picture.stride > shared.size() / picture.height || picture.stride / 4 < picture.width)
        return std::nullopt;
    const auto size = picture.stride * picture.height;
    if (size > shared.size() - offset) return std::nullopt;
    picture.pixels = std::make_unique_for_overwrite<std::uint8_t[]>(size);
    std::memcpy(picture.pixels.get(), shared.data() + offset, size);
    return picture;
}

template <typename T>
std::optional<T> maybe(const nlohmann::json& head, const char* key) {
    const auto found = head.find(key);
    if (found == head.end() || found->is_null()) return std::nullopt;
    return found->get<T>();
}

constexpr int kStarvedFor = 10;  // times the patience: then it has had its chance

// proc(5): state, and the processor time used, of /proc/PID/stat.
struct Life {
    char state = 0;
    double seconds = 0;
};
Life lifeOf(pid_t process) {
    std::ifstream text("/proc/" + std::to_string(process) + "/stat");
    std::string line, skipped;
    std::getline(text, line);
    const auto behindName = line.rfind(')');
    if (behindName == std::string::npos) return {};
    std::istringstream fields(line.substr(behindName + 1));
    char state = 0;
    fields >> state;
    for (int field = 4; field < 14; ++field) fields >> skipped;
    double user = 0, system = 0;
    fields >> user >> system;
    if (!fields) return {};
    return {state, (user + system) / static_cast<double>(::sysconf(_SC_CLK_TCK))};
}

// Whether it would go on but is given no processor: beside heavy programs one of idle priority may wait for
// minutes. What hangs either sleeps or has used its time since it last gave a sign.
bool isStarved(const Life& then, const Life& now, std::chrono::seconds patience) {
    return now.state == 'R' && now.seconds - then.seconds < static_cast<double>(patience.count());
}

}  // namespace

DecoderProcess::~DecoderProcess() {
    end();
}

Status DecoderProcess::start() {
    auto name = program_;
    if (name.empty()) {
        std::error_code failed;
        const auto self = std::filesystem::read_symlink("/proc/self/exe", failed);
        name = (self.parent_path() / "dreskel-decoder").string();
    }
    if (!source_->isThere())
        return Error{Fault::SourceUnusable, "The card is not there", source_->path(),
                     "Attach it, or open its copy, and open the job again"};
    std::array<int, 2> pair{};
    if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, pair.data()) != 0) {
        return Error{Fault::Failed, std::string("No connection to the decoder: ") + std::strerror(errno), "",
                     ""};
    }
    // Without it all but playing clips works.
    if (pictures_.descriptor() < 0) pictures_.make();
    UniqueFd ours(pair[0]);
    const UniqueFd theirs(pair[1]);
    // The worker finds its connection at 3, the source at 4 and the memory for pictures at 5. All are first
    // moved out of the way, so that none lands on another's number.
    const UniqueFd socket(::fcntl(theirs.get(), F_DUPFD_CLOEXEC, 10));
    const UniqueFd source(::fcntl(source_->descriptor(), F_DUPFD_CLOEXEC, 10));
    const UniqueFd memory(pictures_.descriptor() < 0 ? -1
                                                     : ::fcntl(pictures_.descriptor(), F_DUPFD_CLOEXEC, 10));
    posix_spawn_file_actions_t actions{};
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, socket.get(), 3);
    posix_spawn_file_actions_adddup2(&actions, source.get(), 4);
    if (memory) posix_spawn_file_actions_adddup2(&actions, memory.get(), 5);
    std::array<char*, 2> arguments{name.data(), nullptr};
    const int outcome = ::posix_spawn(&pid_, name.c_str(), &actions, nullptr, arguments.data(), environ);
    posix_spawn_file_actions_destroy(&actions);
    if (outcome != 0) {
        pid_ = -1;
        return Error{Fault::Failed,
                     std::string("The decoder could not be started: ") + std::strerror(outcome), name,
                     "Install Dreskel again, so that dreskel-decoder lies beside it"};
    }
    socket_ = std::move(ours);
    return Done{};
}

void DecoderProcess::end() {
    socket_.reset();
    if (pid_ > 0) {
        ::kill(pid_, SIGKILL);
        ::waitpid(pid_, nullptr, 0);
    }
    pid_ = -1;
}

Result<Message> DecoderProcess::ask(nlohmann::json head, const std::vector<Piece>& pieces, Control* control) {
    Message request{std::move(head), {}};
    putPieces(request, pieces);
    if (pid_ < 0) {
        if (auto started = start(); !started) return started.error();
    }
    if (!sendMessage(socket_.get(), request)) {
        end();
        return Error{Fault::Failed, "The decoder ended unexpectedly", "", ""};
    }
    using Clock = std::chrono::steady_clock;
    auto lastSign = Clock::now();
    auto then = lifeOf(pid_);
    for (;;) {
        pollfd waiting{socket_.get(), POLLIN, 0};
        const int ready = ::poll(&waiting, 1, 200);
        if (control != nullptr && control->stopped()) {
            end();
            return Error{Fault::Interrupted, "Interrupted", "", ""};
        }
        if (ready > 0) {
            Message reply;
            if (!receiveMessage(socket_.get(), reply)) {
                end();
                return Error{Fault::Failed, "The decoder ended over this file", "", ""};
            }
            if (!reply.head.contains("alive")) return reply;
            lastSign = Clock::now();
            then = lifeOf(pid_);
        } else if (Clock::now() - lastSign > patience_ &&
                   (!isStarved(then, lifeOf(pid_), patience_) ||
                    Clock::now() - lastSign > kStarvedFor * patience_)) {
            end();
            return Error{Fault::Failed, "The decoder came to no end over this file", "", ""};
        }
    }
}

Result<CheckReport> DecoderProcess::check(const std::vector<Piece>& pieces, const std::string& format,
                                          Control* control) {
    return checkBetween(pieces, format, 0, 0, control);
}

Result<CheckReport> DecoderProcess::checkBetween(const std::vector<Piece>& pieces, const std::string& format,
                                                 std::uint64_t from, std::uint64_t to, Control* control) {
    const auto reply =
        ask({{"op", "check"}, {"format", format}, {"from", from}, {"length", to - std::min(to, from)}},
            pieces, control);
    if (!reply) return reply.error();
    const auto& head = reply.value().head;
    const auto& payload = reply.value().payload;
    CheckReport report;
    report.opened = head.value("opened", false);
    report.decoded = head.value("decoded", 0.0);
    report.errors = head.value("errors", std::uint64_t{0});
    report.roughness = head.value("roughness", 0.0);
    report.noDecoder = head.value("no_decoder", false);
    report.firstError = head.value("first_error", std::string());
    for (const auto& fault : head.value("faults", nlohmann::json::array())) {
        if (fault.is_array() && fault.size() == 2)
            report.faults.push_back({fault[0].get<std::uint64_t>(), fault[1].get<std::uint64_t>()});
    }
    report.decodedMap = head.value("map", std::vector<std::uint8_t>());
    report.duration = maybe<double>(head, "duration");
    report.frameRate = maybe<double>(head, "frame_rate");
    report.width = maybe<std::uint32_t>(head, "stream_width");
    report.height = maybe<std::uint32_t>(head, "stream_height");
    report.codec = head.value("codec", std::string());
    report.taken = head.value("taken", std::string());
    report.camera = head.value("camera", std::string());
    report.peaks = head.value("peaks", std::vector<std::int8_t>());
    if (auto picture = pictureFrom(head, payload, 0); picture.width > 0)
        report.thumbnail = std::move(picture);
    return report;
}

Result<std::vector<std::uint32_t>> DecoderProcess::soundLengths(const std::vector<Piece>& pieces,
                                                                ByteRange part, Bytes settings,
                                                                Control* control) {
    const auto reply = ask({{"op", "sound"},
                            {"from", part.offset},
                            {"length", part.length},
                            {"settings", std::vector<std::uint8_t>(settings.begin(), settings.end())}},
                           pieces, control);
    if (!reply) return reply.error();
    return reply.value().head.value("lengths", std::vector<std::uint32_t>());
}

Result<std::vector<StillFrame>> DecoderProcess::frames(const std::vector<Piece>& pieces,
                                                       const std::string& format, int count, int side,
                                                       Control* control) {
    return stills({{"op", "frames"}, {"format", format}, {"count", count}, {"side", side}}, pieces, control);
}

Result<std::vector<StillFrame>> DecoderProcess::framesAt(const std::vector<Piece>& pieces,
                                                         const std::string& format,
                                                         const std::vector<double>& times, int side,
                                                         Control* control) {
    return stills({{"op", "frames"}, {"format", format}, {"times", times}, {"side", side}}, pieces, control);
}

Result<std::vector<StillFrame>> DecoderProcess::stills(nlohmann::json head, const std::vector<Piece>& pieces,
                                                       Control* control) {
    const auto reply = ask(std::move(head), pieces, control);
    if (!reply) return reply.error();
    std::vector<StillFrame> found;
    std::size_t at = 0;
    for (const auto& item : reply.value().head.value("frames", nlohmann::json::array())) {
        StillFrame frame{item.value("number", std::size_t{0}), item.value("at", 0.0),
                         pictureFrom(item, reply.value().payload, at)};
        at += frame.picture.rgb.size();
        if (frame.picture.width > 0) found.push_back(std::move(frame));
    }
    return found;
}

Result<Picture> DecoderProcess::photo(const std::vector<Piece>& pieces, const std::string& format, int side,
                                      Control* control) {
    const auto reply = ask({{"op", "photo"}, {"format", format}, {"side", side}}, pieces, control);
    if (!reply) return reply.error();
    auto picture = pictureFrom(reply.value().head, reply.value().payload, 0);
    if (picture.width == 0) {
        return Error{Fault::Failed, reply.value().head.value("why", std::string("Nothing of it decodes")), "",
                     ""};
    }
    return picture;
}

Result<DecoderProcess::PartSeen> DecoderProcess::photoPart(const std::vector<Piece>& pieces,
                                                           const std::string& format, PhotoPart part,
                                                           Control* control) {
    const auto reply = ask({{"op", "part"},
                            {"format", format},
                            {"left", part.left},
                            {"top", part.top},
                            {"wide", part.wide},
                            {"high", part.high},
                            {"shrink", part.shrink}},
                           pieces, control);
    if (!reply) return reply.error();
    const auto& told = reply.value().head;
    PartSeen seen{pictureFrom(told, reply.value().payload, 0), told.value("full_width", 0U),
                  told.value("full_height", 0U)};
    if (seen.picture.width == 0)
        return Error{Fault::Failed, told.value("why", std::string("Nothing of it decodes")), "", ""};
    return seen;
}

Result<DecoderProcess::Stretch> DecoderProcess::playFrom(const std::vector<Piece>& pieces,
                                                         const std::string& format, double from,
                                                         Manner manner, Control* control) {
    return play({{"op", "play"}, {"format", format}, {"from", from}}, pieces, manner, control);
}

Result<DecoderProcess::Stretch> DecoderProcess::playOn(Manner manner, Control* control) {
    return play({{"op", "play"}}, {}, manner, control);
}

Result<DecoderProcess::Stretch> DecoderProcess::play(nlohmann::json head, const std::vector<Piece>& pieces,
                                                     Manner manner, Control* control) {
    head["seconds"] = manner.seconds;
    head["side"] = manner.side;
    head["hurry"] = manner.hurry;
    const auto reply = ask(std::move(head), pieces, control);
    if (!reply) return reply.error();
    const auto& told = reply.value().head;
    const auto& payload = reply.value().payload;
    if (const auto why = told.find("why"); why != told.end())
        return Error{Fault::Failed, why->get<std::string>(), "", ""};
    Stretch stretch;
    for (const auto& item : told.value("frames", nlohmann::json::array())) {
        if (auto picture = playedFrom(item, pictures_.bytes()))
            stretch.pictures.push_back(std::move(*picture));
    }
    stretch.sound.resize(payload.size() / 2);
    if (!stretch.sound.empty()) std::memcpy(stretch.sound.data(), payload.data(), stretch.sound.size() * 2);
    stretch.soundAt = told.value("sound_at", 0.0);
    stretch.until = told.value("until", 0.0);
    stretch.ended = told.value("ended", true);
    stretch.duration = told.value("duration", 0.0);
    return stretch;
}

}  // namespace dreskel::media
