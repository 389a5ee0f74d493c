// dreskel-cli: the whole job from the command line. Results go to standard output, messages to standard
// error.
#include <iostream>

#include "cli/verb.h"
#include "session/own_formats.h"

int main(int argc, char** argv) {
    using namespace dreskel;
    CLI::App app("Dreskel: photos, clips and sound from memory cards, checked and saved.", "dreskel-cli");
    app.require_subcommand(1);
    app.failure_message(CLI::FailureMessage::simple);
    cli::Common common;
    int outcome = cli::kUsage;
    std::vector<std::unique_ptr<cli::Verb>> verbs;

    const auto add = [&](const char* name, const char* help, std::unique_ptr<cli::Verb> verb) {
        auto* command = app.add_subcommand(name, help);
        command->add_flag("--quiet", common.quiet, "No messages but errors");
        command->add_option("--progress", common.progress, "'json': one JSON object a line on standard error")
            ->check(CLI::IsMember({"json"}));
        verb->declare(*command);
        command->callback([&outcome, &common, raw = verb.get()] { outcome = raw->run(common); });
        verbs.push_back(std::move(verb));
    };
    if (const auto used = useOwnFormats({own::usualPath()}); !used)
        std::cerr << "Your own formats are not used. " << used.error().sentence() << "\n";
    add("devices", "Cards and cameras that are attached", cli::makeDevices());
    add("inspect", "Size, partition table and filesystems of a card or an image", cli::makeInspect());
    add("copy", "Copy a card sector by sector; goes on where it stopped when called again", cli::makeCopy());
    add("scan", "Search a card or an image; goes on where it stopped when called again", cli::makeScan());
    add("list", "What was found; also while a scan is running", cli::makeList());
    add("save", "Write files to another drive, read them back and compare", cli::makeSave());
    add("verify", "Compare files that were saved with their manifest", cli::makeVerify());
    add("close", "Keep a job that is done with small; what was found stays", cli::makeClose());
    add("formats", "The formats that are found; learn, check and keep some of your own", cli::makeFormats());
    add("demo-card", "Write the demo card", cli::makeDemoCard());
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& problem) {
        const bool help = problem.get_exit_code() == 0;
        app.exit(problem, std::cout, std::cerr);
        return help ? cli::kDone : cli::kUsage;
    } catch (const std::exception& problem) {
        std::cerr << "dreskel-cli: " << problem.what() << std::endl;
        return cli::kFailed;
    }
    return outcome;
}
