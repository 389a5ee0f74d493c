// One verb of the command line: a class that declares its options and runs. See docs/contract.md.
#pragma once

#include <atomic>
#include <CLI/CLI.hpp>
#include <memory>
#include <string>
#include <vector>

#include "base/control.h"
#include "base/range.h"
#include "base/result.h"
#include "session/copying.h"

namespace dreskel::cli {

// Exit codes of the contract.
enum Exit {
    kDone = 0,
    kFailed = 1,
    kUsage = 2,
    kSource = 3,
    kDestination = 4,
    kPartly = 5,
    kInterrupted = 130
};

// Options that every verb has.
struct Common {
    bool quiet = false;
    std::string progress;  // "json" or empty
};

class Verb {
  public:
    virtual ~Verb() = default;
    virtual void declare(CLI::App& app) = 0;
    virtual int run(const Common& common) = 0;
};

std::unique_ptr<Verb> makeDevices();
std::unique_ptr<Verb> makeInspect();
std::unique_ptr<Verb> makeCopy();
std::unique_ptr<Verb> makeScan();
std::unique_ptr<Verb> makeList();
std::unique_ptr<Verb> makeSave();
std::unique_ptr<Verb> makeVerify();
std::unique_ptr<Verb> makeClose();
std::unique_ptr<Verb> makeFormats();
std::unique_ptr<Verb> makeDemoCard();

// Tells the error on standard error and gives the exit code for it.
int report(const Error& error);

// How far a copy is: a line that overwrites itself, or a JSON object.
void showCopy(const CopyView& view, const Common& common);

// A card or an image, read-only; a device through UDisks2 where that answers, so that no one needs to be
// root.
Result<std::shared_ptr<Source>> openForReading(const std::string& path);

// Set by SIGINT and SIGTERM.
bool interruptAsked();

// "A-B" with K, M, G as powers of 1024; B is the first byte behind the span.
Result<ByteRange> spanFrom(const std::string& text);

// Short names from --kinds and --formats; an error for a word that is not known.
Result<std::vector<std::string>> formatsFrom(const std::vector<std::string>& kinds,
                                             const std::vector<std::string>& formats);

}  // namespace dreskel::cli
