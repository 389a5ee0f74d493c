#include <iostream>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "base/words.h"
#include "cli/verb.h"
#include "job/listing.h"
#include "session/session.h"

namespace dreskel::cli {
namespace {

class Inspect : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("SOURCE", source_, "A block device or an image file")->required();
        app.add_flag("--json", json_, "As JSON");
        app.add_option("--job", job_, "A job on it: the account of every sector, and what nothing explains");
    }
    int run(const Common&) override {
        const auto card = openForReading(source_);
        if (!card) return report(card.error());
        const auto seen = inspectSource(card.value());
        if (job_.empty()) {
            json_ ? printJson(seen, nullptr) : printText(seen, nullptr);
            return kDone;
        }
        const auto job = Job::open(job_, Job::Access::Read);
        if (!job) return report(job.error());
        if (job.value()->source().value_or(SourceFacts{}).size != seen.facts.size)
            return report(
                {Fault::Usage, "This job belongs to another source", job_, "Name the source it belongs to"});
        Account account{ledgerOf(*job.value()), {}};
        account.stretches =
            lookAtUnexplained(*card.value(), account.ledger.unexplainedAt, [] { return !interruptAsked(); });
        json_ ? printJson(seen, &account) : printText(seen, &account);
        return kDone;
    }

  private:
    struct Account {
        Ledger ledger;
        std::vector<Stretch> stretches;
    };
    static void addAccount(const Account& account, nlohmann::ordered_json& out) {
        out["ledger"] = ledgerJson(account.ledger);
        out["unexplained"] = nlohmann::ordered_json::array();
        for (const auto& stretch : account.stretches) {
            out["unexplained"].push_back({{"offset", stretch.range.offset},
                                          {"length", stretch.range.length},
                                          {"looks_like", toWords(stretch.kind)},
                                          {"mixed", stretch.mixed}});
        }
    }
    static void printAccount(const Account& account) {
        const auto& ledger = account.ledger;
        const std::pair<const char*, std::uint64_t> lines[] = {{"files", ledger.files},
                                                               {"filesystem", ledger.structures},
                                                               {"blank", ledger.blank},
                                                               {"unreadable", ledger.unreadable},
                                                               {"unexplained", ledger.unexplained},
                                                               {"not looked at", ledger.notLookedAt},
                                                               {"together", ledger.total()}};
        for (const auto& [word, bytes] : lines)
            std::cout << "  " << word << ": " << grouped(bytes) << " bytes\n";
        if (!account.stretches.empty()) std::cout << "Unexplained, by place:\n";
        for (const auto& stretch : account.stretches) {
            std::cout << "  from byte " << grouped(stretch.range.offset) << ", "
                      << humanSize(stretch.range.length) << ": " << toWords(stretch.kind)
                      << (stretch.mixed ? ", and other data" : "") << "\n";
        }
    }
    static void printJson(const Inspection& seen, const Account* account) {
        nlohmann::ordered_json out;
        out["schema"] = 1;
        out["source"] = {
            {"path", seen.facts.path}, {"size", seen.facts.size}, {"sector_size", seen.facts.sectorSize}};
        out["table"] = {{"kind", seen.look.survey.table.kind},
                        {"partitions", nlohmann::ordered_json::array()}};
        for (const auto& partition : seen.look.survey.table.partitions) {
            out["table"]["partitions"].push_back({{"type", partition.type},
                                                  {"offset", partition.range.offset},
                                                  {"length", partition.range.length}});
        }
        out["filesystems"] = nlohmann::ordered_json::array();
        for (const auto& volume : seen.look.survey.volumes) {
            out["filesystems"].push_back({{"kind", volume.facts.kind},
                                          {"state", toWord(volume.state)},
                                          {"offset", volume.offset},
                                          {"size", volume.facts.size},
                                          {"cluster_size", volume.facts.clusterSize},
                                          {"label", volume.facts.label},
                                          {"why", volume.why}});
        }
        out["state"] = {{"word", toWord(seen.look.state)},
                        {"sentence", seen.look.sentence},
                        {"facts", seen.look.facts},
                        {"present_files", seen.look.present},
                        {"deleted_files", seen.look.deleted}};
        if (account != nullptr) addAccount(*account, out);
        std::cout << jsonText(out, 2) << std::endl;
    }
    static void printText(const Inspection& seen, const Account* account) {
        std::cout << seen.facts.path << ": " << humanSize(seen.facts.size) << ", sectors of "
                  << seen.facts.sectorSize << " bytes\n";
        std::cout << seen.look.sentence << "\n";
        for (const auto& fact : seen.look.facts) std::cout << "  " << fact << "\n";
        if (account != nullptr) printAccount(*account);
        std::cout << std::flush;
    }

    std::string source_, job_;
    bool json_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeInspect() {
    return std::make_unique<Inspect>();
}

}  // namespace dreskel::cli
