#include "scan/own_trial.h"

#include "formats/registry.h"
#include "scan/pass.h"

namespace dreskel {
namespace {

constexpr std::size_t kFirst = 20;

}  // namespace

OwnTrial tryOn(const Source& source, const own::Definition& definition, Control& control) {
    OwnTrial trial;
    const auto format = own::makeFormat(definition);
    Pass::run(source, {0, source.size()}, control, [&](std::uint64_t offset, Bytes bytes, const auto&) {
        for (std::size_t at = 0; at < bytes.size(); at += source.sectorSize()) {
            const auto head = slice(bytes, at, Format::kHead);
            if (!format->matches(head)) continue;
            ++trial.begins;
            if (trial.first.size() < kFirst) trial.first.push_back(offset + at);
            for (const auto* known : builtInFormats()) {
                if (known->matches(head)) ++trial.clashes[std::string(known->name())];
            }
        }
        trial.looked = offset + bytes.size();
    });
    return trial;
}

}  // namespace dreskel
