#include <chrono>
#include <cstdio>
#include <future>
#include <iostream>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "base/words.h"
#include "cli/verb.h"
#include "session/copying.h"
#include "source/device_list.h"

namespace dreskel::cli {
namespace {

class Copy : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("SOURCE", source_, "A block device or an image file; not needed with --verify");
        app.add_option("IMAGE", image_, "The copy; its map lies beside it as IMAGE.map");
        app.add_option("--map", map_, "Where the map lies instead");
        app.add_option("--span", span_, "A-B in bytes; K, M, G are powers of 1024");
        app.add_option("--tries", tries_, "Later tries of each sector that failed (1)")
            ->check(CLI::Range(0, 1000));
        app.add_option("--minutes", minutes_, "At most so long on bad places altogether")
            ->check(CLI::PositiveNumber);
        app.add_flag("--verify", verify_, "Read a finished copy back and compare it with its checksum");
    }

    int run(const Common& common) override {
        if (verify_) return verify(common);
        if (source_.empty() || image_.empty())
            return report({Fault::Usage, "Name the card and the copy", "", "copy SOURCE IMAGE"});
        CopyRequest request{image_, map_, serialOf(source_), {}};
        request.options.laterTries = tries_;
        request.options.minutesOver = minutes_;
        if (!span_.empty()) {
            const auto span = spanFrom(span_);
            if (!span) return report(span.error());
            request.options.span = span.value();
        }
        auto card = openForReading(source_);
        if (!card) return report(card.error());
        auto begun = Copying::begin(card.value(), request);
        if (!begun) return report(begun.error());
        auto& copying = *begun.value();
        if (!common.quiet && !copying.recognised().empty())
            std::cerr << "Going on with the copy; the card was recognised: " << copying.recognised() << ".\n";

        Control control;
        auto work = std::async(std::launch::async, [&] { return copying.run(control); });
        for (int tick = 0; work.wait_for(std::chrono::milliseconds(50)) != std::future_status::ready;
             ++tick) {
            if (interruptAsked()) control.stop();
            if (tick % 10 == 0) showCopy(copying.view(), common);
        }
        const auto outcome = work.get();
        const auto view = copying.view();
        showCopy(view, common);
        if (!common.quiet && common.progress.empty()) std::cerr << "\n";
        if (!outcome) return report(outcome.error());
        return sum(copying, view, common);
    }

  private:
    static int sum(const Copying& copying, const CopyView& view, const Common& common) {
        const auto& progress = view.progress;
        const auto left = progress.failed + progress.waiting + progress.stalled + progress.untried;
        if (!common.quiet) {
            std::cerr << "Copied " << grouped(progress.read) << " bytes to " << copying.image().path() << "; "
                      << grouped(left)
                      << " bytes could not be read.\nSHA-256 of the copy: " << copying.image().sha256()
                      << "\n";
        }
        return left > 0 ? kPartly : kDone;
    }
    int verify(const Common& common) const {
        const auto image = image_.empty() ? source_ : image_;
        if (image.empty()) return report({Fault::Usage, "Name the copy", "", "copy --verify IMAGE"});
        Control control;
        auto work = std::async(std::launch::async, [&] {
            return verifyCopy(image, map_.empty() ? mapPathFor(image) : map_, control);
        });
        while (work.wait_for(std::chrono::milliseconds(50)) != std::future_status::ready) {
            if (interruptAsked()) control.stop();
        }
        const auto outcome = work.get();
        if (!outcome) return report(outcome.error());
        if (!common.quiet) std::cerr << "The copy is as it was when it was made.\n";
        return kDone;
    }

    std::string source_, image_, map_, span_;
    int tries_ = 1;
    double minutes_ = 0;
    bool verify_ = false;
};

}  // namespace

void showCopy(const CopyView& view, const Common& common) {
    const auto& progress = view.progress;
    const auto missing = progress.failed + progress.waiting + progress.stalled;
    const auto all = progress.read + missing + progress.untried;
    if (common.progress == "json") {
        const auto seconds =
            progress.bytesPerSecond > 0
                ? nlohmann::ordered_json(static_cast<double>(progress.untried) / progress.bytesPerSecond)
                : nlohmann::ordered_json(nullptr);
        const nlohmann::ordered_json line{
            {"state", toWord(progress.stage)}, {"bytes", all},
            {"read", progress.read},           {"failed", progress.failed},
            {"waiting", progress.waiting},     {"stalled", progress.stalled},
            {"errors", progress.errors},       {"bytes_per_second", progress.bytesPerSecond},
            {"seconds_left", seconds}};
        std::cerr << jsonText(line) << std::endl;
    } else if (!common.quiet) {
        std::fprintf(stderr, "\r%s: %s of %s, %s not read, %llu errors   ",
                     std::string(toWord(progress.stage)).c_str(), humanSize(progress.read).c_str(),
                     humanSize(all).c_str(), humanSize(missing).c_str(),
                     static_cast<unsigned long long>(progress.errors));
    }
}

std::unique_ptr<Verb> makeCopy() {
    return std::make_unique<Copy>();
}

}  // namespace dreskel::cli
