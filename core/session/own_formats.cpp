#include "session/own_formats.h"

#include <algorithm>

#include "formats/registry.h"

namespace dreskel {
namespace {

Status put(std::vector<own::Definition> all) {
    const auto path = own::usualPath();
    if (auto written = own::writeDefinitions(path, all); !written) return written;
    return useOwnFormats({path});
}

}  // namespace

Status useOwnFormats(const std::vector<std::string>& paths) {
    std::vector<std::shared_ptr<const Format>> formats;
    std::vector<std::string> names;
    for (const auto& path : paths) {
        auto read = own::readDefinitions(path);
        if (!read) return read.error();
        for (auto& definition : read.value()) {
            if (std::find(names.begin(), names.end(), definition.name) != names.end()) {
                return Error{Fault::Failed, definition.name + " is defined in two files", path,
                             "Give one of them another name"};
            }
            names.push_back(definition.name);
            formats.push_back(own::makeFormat(std::move(definition)));
        }
    }
    setOwnFormats(std::move(formats));
    return Done{};
}

Result<own::Definition> learnFrom(const std::vector<std::string>& samples, const std::string& name,
                                  Kind kind) {
    std::vector<own::Sample> read;
    for (const auto& path : samples) {
        auto sample = own::readSample(path);
        if (!sample) return sample.error();
        read.push_back(std::move(sample.value()));
    }
    return own::learn(read, name, kind);
}

Status keepOwnFormat(const own::Definition& definition) {
    auto all = own::readDefinitions(own::usualPath());
    if (!all) return all.error();
    std::erase_if(all.value(), [&](const own::Definition& other) { return other.name == definition.name; });
    all.value().push_back(definition);
    return put(std::move(all.value()));
}

Status dropOwnFormat(const std::string& name) {
    auto all = own::readDefinitions(own::usualPath());
    if (!all) return all.error();
    std::erase_if(all.value(), [&](const own::Definition& other) { return other.name == name; });
    return put(std::move(all.value()));
}

std::string wordsOf(const OwnTrial& trial) {
    std::string text = "It begins at ";
    text += grouped(trial.begins) + (trial.begins == 1 ? " sector" : " sectors") + " of the ";
    text += humanSize(trial.looked) + " looked at.";
    if (trial.begins == 0) return text;
    if (trial.clashes.empty()) text += " None of them is the beginning of a format that is known already.";
    for (const auto& [family, count] : trial.clashes) {
        text += ' ' + grouped(count) + " of them begin files of the family ";
        text += family + " too: make it tell more.";
    }
    return text;
}

}  // namespace dreskel
