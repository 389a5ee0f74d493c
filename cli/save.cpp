#include <algorithm>
#include <chrono>
#include <future>
#include <iostream>
#include <nlohmann/json.hpp>
#include <set>

#include "base/json_text.h"
#include "cli/verb.h"
#include "deliver/camera_card.h"
#include "deliver/raw_pieces.h"
#include "deliver/selection.h"
#include "deliver/shop.h"
#include "session/session.h"

namespace dreskel::cli {
namespace {

class Save : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("--job", job_, "The job's folder")->required();
        app.add_option("--to", destination_, "A folder on another drive")->required();
        app.add_option("--only", only_, "whole, partial or broken; may be repeated");
        app.add_option("--kinds", kinds_, "photo, video, audio")->delimiter(',');
        app.add_option("--formats", formats_, "jpeg, mp4, ...")->delimiter(',');
        app.add_option("--ids", ids_, "4,7-19, and of the contact pages whole ones: p3")->delimiter(',');
        app.add_option("--layout", layout_, "kind, date, camera, folders, flat, or dcf (for a camera)");
        app.add_option("--names", names_,
                       "What files are called that have no name, \"{date} {time} {camera}\"");
        app.add_flag("--versions", versions_,
                     "Beside each partial file, a version that opens, where one can be made");
        app.add_flag("--unexplained", unexplained_,
                     "What no file and no filesystem accounts for, too, as raw pieces");
        app.add_flag("--report", report_,
                     "Write a report and contact pages, as HTML and PDF, beside the manifest");
        app.add_option("--language", language_, "Of the report: en or de; otherwise the shop's, or your own");
        app.add_option("--shop", shop_, "A file with the shop's name, address, logo and advice for them");
    }

    int run(const Common& common) override {
        const auto formats = formatsFrom(kinds_, formats_);
        if (!formats) return report(formats.error());
        const auto layout = layoutFromWord(layout_);
        if (!layout)
            return report({Fault::Usage, "Not a layout: " + layout_, "",
                           "Layouts are kind, date, camera, folders, flat, dcf"});
        std::set<Condition> conditions;
        for (const auto& word : only_) {
            const auto condition = conditionFromWord(word);
            if (!condition)
                return report(
                    {Fault::Usage, "Not a condition: " + word, "", "Conditions are whole, partial, broken"});
            conditions.insert(*condition);
        }
        const auto job = Job::open(job_, Job::Access::Read);
        if (!job) return report(job.error());
        const auto facts = job.value()->source();
        if (!facts) return report({Fault::Failed, "The job has no source yet", job_, "Scan first"});
        auto source = openForReading(facts->path);
        if (!source) return report(source.error());

        DeliveryRequest request;
        request.destination = destination_;
        request.layout = *layout;
        request.report = report_;
        request.versions = versions_;
        const auto names = NamePattern::from(names_);
        if (!names) return report(names.error());
        request.names = names.value();
        request.shop = shop_.empty() ? usualShopPath() : shop_;
        if (!language_.empty()) {
            request.language = languageFromWord(language_);
            if (!request.language)
                return report({Fault::Usage, "Reports cannot be written in the language " + language_, "",
                               "Languages are en and de"});
        }
        auto findings = job.value()->findings();
        const auto ids = numbersOf(findings);
        if (!ids) return report(ids.error());
        for (auto& finding : findings) {
            const bool asked = ids.value().empty() ? finding.listed() : ids.value().count(finding.id) > 0;
            const bool format =
                formats.value().empty() ||
                std::count(formats.value().begin(), formats.value().end(), finding.format) > 0;
            const bool condition = conditions.empty() || conditions.count(finding.condition) > 0;
            // The same bytes twice are no help to anyone, unless asked for by number.
            const bool repeated = ids.value().empty() && finding.sameAs.has_value();
            if (asked && format && condition && !repeated) request.files.push_back(std::move(finding));
        }
        if (unexplained_) {
            auto pieces = rawPiecesOf(*job.value());
            std::move(pieces.begin(), pieces.end(), std::back_inserter(request.files));
        }
        return save(*job.value(), source.value(), request, common);
    }

  private:
    Result<std::set<std::int64_t>> numbersOf(const std::vector<Finding>& findings) const {
        std::vector<std::int64_t> known, listed;
        for (const auto& finding : findings) {
            known.push_back(finding.id);
            if (finding.listed()) listed.push_back(finding.id);
        }
        std::string asked;
        for (const auto& word : ids_) asked += word + ",";
        auto ids = numbersIn(asked, known, listed);
        // An empty choice is no choice of everything.
        if (ids.ok() && ids.value().empty() && !ids_.empty())
            return Error{Fault::Usage, "No file has these numbers: " + asked, job_,
                         "Look at `dreskel-cli list`"};
        return ids;
    }
    static int save(const Job& job, const std::shared_ptr<Source>& source, const DeliveryRequest& request,
                    const Common& common) {
        Control control;
        std::atomic<std::size_t> lastShown = ~std::size_t{0};
        const auto progress = [&](const DeliveryProgress& at) {
            if (interruptAsked()) control.stop();
            if (lastShown.exchange(at.filesDone) == at.filesDone || common.quiet) return;
            if (common.progress == "json") {
                const nlohmann::ordered_json line{{"state", "saving"},
                                                  {"files_done", at.filesDone},
                                                  {"files", at.files},
                                                  {"bytes_done", at.bytesDone},
                                                  {"bytes", at.bytes}};
                std::cerr << jsonText(line) << std::endl;
            }
        };
        const auto outcome = deliver(job, source, request, control, progress);
        if (!outcome) return report(outcome.error());
        const auto& sum = outcome.value();
        std::cout << "Saved " << sum.saved << " of " << sum.items.size() << " files, " << humanSize(sum.bytes)
                  << "; verified " << sum.verified << "; not saved " << sum.notSaved << "." << std::endl;
        if (!sum.manifest.empty()) std::cout << "Manifest: " << sum.manifest << std::endl;
        if (!sum.manifestWhyNot.empty()) std::cerr << sum.manifestWhyNot << "\n";
        if (sum.before > 0)
            std::cout << "There already from an earlier delivery, and read again: " << sum.before
                      << std::endl;
        if (request.versions) std::cout << "Versions that open: " << sum.versions << std::endl;
        for (const auto& item : sum.items) {
            if (!item.version.whyNot.empty())
                std::cerr << "No version that opens of file " << item.finding.id << ": "
                          << item.version.whyNot << "\n";
        }
        if (!sum.report.empty()) std::cout << "Report: " << sum.report << std::endl;
        if (!sum.reportWhyNot.empty()) std::cerr << sum.reportWhyNot << "\n";
        if (request.layout == Layout::Dcf && !common.quiet) {
            for (const auto& doubt : cameraDoubts(request.files))
                std::cerr << "For a camera: " << doubt << ".\n";
        }
        for (const auto& item : sum.items) {
            if (!item.whyNot.empty())
                std::cerr << "Not saved: file " << item.finding.id << ": " << item.whyNot << "\n";
        }
        if (control.stopped()) return kInterrupted;
        const bool all = sum.notSaved == 0 && sum.manifestWhyNot.empty() && sum.verified == sum.saved &&
                         job.unreadable().empty();
        return all ? kDone : kPartly;
    }

    bool report_ = false, versions_ = false, unexplained_ = false;
    std::string job_, destination_, shop_, names_, language_, layout_ = "kind";
    std::vector<std::string> only_, kinds_, formats_, ids_;
};

}  // namespace

std::unique_ptr<Verb> makeSave() {
    return std::make_unique<Save>();
}

}  // namespace dreskel::cli
