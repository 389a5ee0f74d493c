#include <chrono>
#include <cstdio>
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>
#include <thread>

#include "base/json_text.h"
#include "cli/verb.h"
#include "session/own_formats.h"
#include "session/session.h"
#include "source/device_list.h"

namespace dreskel::cli {
namespace {

class Scan : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("SOURCE", source_, "A block device or an image file")->required();
        app.add_option("--job", job_, "The job's folder; made when it is not there")->required();
        app.add_option("--kinds", kinds_, "photo, video, audio")->delimiter(',');
        app.add_option("--formats", formats_, "jpeg, mp4, ...")->delimiter(',');
        app.add_option("--span", span_, "A-B in bytes; K, M, G are powers of 1024");
        app.add_option("--map", map_, "The map of a copy: what it does not call read is no data");
        app.add_option("--copy", copy_,
                       "Copy the card to this image while it is searched: one read for both");
        app.add_option("--own", own_, "A file of formats of your own, beside those that are kept")
            ->take_all();
        app.add_option("--reference", references_,
                       "A good clip or photo of the same camera, for clips that lost their index and photos "
                       "that lost their beginning; may be repeated")
            ->take_all();
        app.add_flag("--skip-live", skipLive_, "Leave out the space of the files that are present");
        app.add_flag("--named-only", namedOnly_,
                     "Only the files that folders name: read nothing else; without it the scan goes on");
        app.add_flag("--no-rebuild", noRebuild_, "Do not put files in pieces together again");
    }

    int run(const Common& common) override {
        if (!own_.empty()) {
            own_.push_back(own::usualPath());
            if (const auto used = useOwnFormats(own_); !used) return report(used.error());
        }
        if (namedOnly_ && !copy_.empty())
            return report({Fault::Usage,
                           "--named-only reads no more than the named files, --copy all of the card", "",
                           "Choose one of them"});
        const auto formats = formatsFrom(kinds_, formats_);
        if (!formats) return report(formats.error());
        ScanOptions options;
        options.formats = formats.value();
        options.rebuild = !noRebuild_;
        options.skipPresent = skipLive_;
        options.namedOnly = namedOnly_;
        for (const auto& path : references_) {
            const auto lent = openSource(path);
            if (!lent) return report(lent.error());
            options.references.push_back(std::filesystem::absolute(path).string());
        }
        if (!span_.empty()) {
            const auto span = spanFrom(span_);
            if (!span) return report(span.error());
            options.span = span.value();
        }
        auto opened = openJob(options.span);
        if (!opened) return report(opened.error());
        auto& session = *opened.value();
        const auto before = session.overview().progress;
        if (before.state == ScanState::Finished && references_.empty() && (namedOnly_ || !before.namedOnly)) {
            if (!common.quiet) std::cerr << "This scan is finished already; nothing is left to do.\n";
            return kDone;
        }
        session.startScan(options);
        for (int tick = 0; session.overview().activity != Activity::Idle; ++tick) {
            std::this_thread::sleep_for(std::chrono::milliseconds(50));
            if (interruptAsked()) session.stop();
            if (tick % 10 == 0) show(session.overview(), common);
        }
        const auto outcome = session.wait();
        const auto overview = session.overview();
        show(overview, common);
        if (!common.quiet && common.progress.empty()) std::cerr << "\n";
        if (!outcome) return report(outcome.error());
        if (!common.quiet) {
            const auto count = [&](Condition condition) {
                const auto found = overview.byCondition.find(condition);
                return found == overview.byCondition.end() ? std::size_t{0} : found->second;
            };
            std::cerr << "Found " << overview.listed << " files: " << count(Condition::Whole) << " whole, "
                      << count(Condition::Partial) << " partial, " << count(Condition::Broken) << " broken, "
                      << count(Condition::Unchecked) << " unchecked.\n";
        }
        if (overview.progress.unreadable > 0) {
            std::cerr << humanSize(overview.progress.unreadable) << " of the source could not be read.\n";
            return kPartly;
        }
        return kDone;
    }

  private:
    Result<std::shared_ptr<Session>> openJob(ByteRange span) const {
        if (!copy_.empty()) {
            CopyRequest request{copy_, map_, serialOf(source_), {}};
            request.options.span = span;
            auto card = openForReading(source_);
            if (!card) return card.error();
            return Session::openCopying(card.value(), request, job_);
        }
        if (!map_.empty()) return Session::open(source_, job_, map_);
        auto path = source_;
        if (path.empty()) {
            auto known = sourcePathOf(job_);
            if (!known) return known.error();
            path = known.value();
        }
        auto card = openForReading(path);
        if (!card) return card.error();
        return Session::open(card.value(), job_);
    }
    static void show(const Overview& overview, const Common& common) {
        const auto& progress = overview.progress;
        const bool copying = overview.copy && overview.copy->underWay;
        if (copying && common.progress.empty()) return showCopy(*overview.copy, common);
        const auto done = progress.position - progress.span.offset;
        if (common.progress == "json") {
            const auto left = progress.span.end() - progress.position;
            const nlohmann::ordered_json line{
                {"state", progress.joining ? "joining" : toWord(progress.state)},
                {"bytes_read", done},
                {"bytes", progress.span.length},
                {"unreadable", progress.unreadable},
                {"files", overview.listed},
                {"to_check", progress.toCheck},
                {"seconds_left",
                 progress.bytesPerSecond > 0
                     ? nlohmann::ordered_json(static_cast<double>(left) / progress.bytesPerSecond)
                     : nlohmann::ordered_json(nullptr)}};
            std::cerr << jsonText(line) << std::endl;
        } else if (!common.quiet) {
            if (progress.joining) {
                std::fprintf(stderr, "\rjoining: %zu photos put together, %zu to try, %zu files   ",
                             progress.joined, progress.toJoin, overview.listed);
                return;
            }
            std::fprintf(stderr, "\r%s: %s of %s, %zu files, %zu to check   ",
                         std::string(toWord(progress.state)).c_str(), humanSize(done).c_str(),
                         humanSize(progress.span.length).c_str(), overview.listed, progress.toCheck);
        }
    }

    std::string source_, job_, span_, map_, copy_;
    std::vector<std::string> kinds_, formats_, own_;
    bool skipLive_ = false;
    std::vector<std::string> references_;
    bool namedOnly_ = false;
    bool noRebuild_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeScan() {
    return std::make_unique<Scan>();
}

}  // namespace dreskel::cli
