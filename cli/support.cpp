#include <csignal>
#include <filesystem>
#include <iostream>

#include "cli/verb.h"
#include "formats/registry.h"
#include "udisks/udisks.h"

namespace dreskel::cli {
namespace {

std::atomic<bool> interrupted = false;
static_assert(std::atomic<bool>::is_always_lock_free);

extern "C" void onSignal(int) {
    interrupted = true;
}

const struct InstallHandlers {
    InstallHandlers() {
        struct sigaction action {};
        action.sa_handler = onSignal;
        sigaction(SIGINT, &action, nullptr);
        sigaction(SIGTERM, &action, nullptr);
    }
} install;

std::optional<std::uint64_t> bytesFrom(std::string text) {
    std::uint64_t unit = 1;
    if (!text.empty()) {
        const auto last = text.back();
        if (last == 'K' || last == 'k') unit = 1ULL << 10;
        if (last == 'M' || last == 'm') unit = 1ULL << 20;
        if (last == 'G' || last == 'g') unit = 1ULL << 30;
        if (unit != 1) text.pop_back();
    }
    if (text.empty() || text.size() > 18 || text.find_first_not_of("0123456789") != std::string::npos)
        return std::nullopt;
    return checkedMultiply(std::stoull(text), unit);
}

}  // namespace

int report(const Error& error) {
    std::cerr << "dreskel-cli: " << error.sentence() << std::endl;
    switch (error.fault) {
        case Fault::Usage: return kUsage;
        case Fault::SourceUnusable: return kSource;
        case Fault::DestinationRefused: return kDestination;
        case Fault::Interrupted: return kInterrupted;
        case Fault::Failed: break;
    }
    return kFailed;
}

Result<std::shared_ptr<Source>> openForReading(const std::string& path) {
    std::error_code failed;
    const auto absolute = std::filesystem::absolute(path, failed);
    return openReadOnly(QString::fromStdString(failed ? path : absolute.string()));
}

bool interruptAsked() {
    return interrupted;
}

Result<ByteRange> spanFrom(const std::string& text) {
    const auto dash = text.find('-');
    if (dash != std::string::npos) {
        const auto from = bytesFrom(text.substr(0, dash));
        const auto to = bytesFrom(text.substr(dash + 1));
        if (from && to && *to > *from) return ByteRange{*from, *to - *from};
    }
    return Error{Fault::Usage, "Not a span: " + text, "", "Write it as A-B in bytes, for example 0-512M"};
}

Result<std::vector<std::string>> formatsFrom(const std::vector<std::string>& kinds,
                                             const std::vector<std::string>& formats) {
    std::vector<std::string> names;
    std::string known;
    for (const auto* family : allFormats()) {
        for (const auto name : family->formats()) known += (known.empty() ? "" : ", ") + std::string(name);
    }
    for (const auto& word : kinds) {
        const auto kind = kindFromWord(word);
        if (!kind) return Error{Fault::Usage, "Not a kind: " + word, "", "Kinds are photo, video, audio"};
        for (const auto* family : allFormats()) {
            for (const auto name : family->formats()) {
                if (family->kindOf(name) == *kind) names.emplace_back(name);
            }
        }
    }
    for (const auto& word : formats) {
        if (formatFor(word) == nullptr)
            return Error{Fault::Usage, "Not a format: " + word, "", "Formats are " + known};
        names.push_back(word);
    }
    return names;
}

}  // namespace dreskel::cli
