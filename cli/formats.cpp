#include <algorithm>
#include <iostream>

#include "cli/verb.h"
#include "formats/registry.h"
#include "session/own_formats.h"

namespace dreskel::cli {
namespace {

class Formats : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("--learn", samples_, "Two or more files of one camera: propose a format of your own");
        app.add_option("--name", name_, "Its short name");
        app.add_option("--kind", kind_, "photo, video, audio, sidecar, other");
        app.add_option("--check", check_, "Say whether a file of formats can be used");
        app.add_option("--try", card_,
                       "Look on this card or image for what is proposed, or for what --check names");
        app.add_flag("--keep", keep_, "Keep what is proposed or checked with your own formats");
        app.add_option("--drop", drop_, "Take a format of your own out again, by its name");
    }
    int run(const Common& common) override {
        std::vector<own::Definition> found;
        if (!drop_.empty()) {
            const auto dropped = dropOwnFormat(drop_);
            return dropped ? kDone : report(dropped.error());
        }
        if (!samples_.empty()) {
            const auto kind = kindFromWord(kind_.empty() ? "photo" : kind_);
            if (!kind)
                return report({Fault::Usage, "Not a kind: " + kind_, "",
                               "Kinds are photo, video, audio, sidecar, other"});
            if (name_.empty()) return report({Fault::Usage, "The format needs a name", "", "Say --name"});
            auto learnt = learnFrom(samples_, name_, *kind);
            if (!learnt) return report(learnt.error());
            found.push_back(std::move(learnt.value()));
        } else if (!check_.empty()) {
            auto read = own::readDefinitions(check_);
            if (!read) return report(read.error());
            found = std::move(read.value());
        } else {
            for (const auto* family : allFormats()) {
                for (const auto name : family->formats())
                    std::cout << name << "\t" << toWord(family->kindOf(name)) << "\n";
            }
            return kDone;
        }
        std::cout << own::textOf(found);
        if (!card_.empty()) {
            const auto source = openForReading(card_);
            if (!source) return report(source.error());
            for (const auto& definition : found) {
                Control control;
                const auto trial = tryOn(*source.value(), definition, control);
                std::cerr << definition.name << ": " << wordsOf(trial) << "\n";
            }
        }
        for (const auto& definition : found) {
            if (!keep_) break;
            if (const auto kept = keepOwnFormat(definition); !kept) return report(kept.error());
            if (!common.quiet) std::cerr << "Kept in " << own::usualPath() << "\n";
        }
        return kDone;
    }

  private:
    std::vector<std::string> samples_;
    std::string name_, kind_, check_, card_, drop_;
    bool keep_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeFormats() {
    return std::make_unique<Formats>();
}

}  // namespace dreskel::cli
