// The worker gone wrong: obeys an order that stands in the file it is to decode.
#include <fcntl.h>
#include <sys/socket.h>
#include <unistd.h>

#include <stdexcept>
#include <string>
#include <vector>

#include "decoder/orders.h"

namespace dreskel {

void obeyOrders(CardView& card, const nlohmann::json& request) {
    if (!request.contains("pieces") || request["pieces"].empty()) return;
    std::vector<std::uint8_t> head(4096);
    head.resize(card.read(request["pieces"][0][1].get<std::uint64_t>(), head));
    const std::string text(head.begin(), head.end());
    const auto told = [&](const char* order) {
        return text.find(std::string("UNRULY:") + order) != text.npos;
    };
    if (told("crash")) std::abort();
    if (told("hang")) {
        for (;;) ::usleep(100000);
    }
    if (told("bloat")) {
        std::vector<std::vector<char>> all;
        for (;;) all.emplace_back(64 << 20, 'x');
    }
    if (told("reach")) {
        const bool opened = ::open("/etc/hostname", O_RDONLY) >= 0;
        const bool connected = ::socket(AF_INET, SOCK_STREAM, 0) >= 0;
        const bool forked = ::fork() >= 0;
        throw std::runtime_error(opened || connected || forked ? "reached out" : "could reach nothing");
    }
}

}  // namespace dreskel
