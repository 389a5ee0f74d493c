#include <iostream>
#include <nlohmann/json.hpp>

#include "cli/verb.h"
#include "session/session.h"

namespace dreskel::cli {
namespace {

class Inspect : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("SOURCE", source_, "A block device or an image file")->required();
        app.add_flag("--json", json_, "As JSON");
    }
    int run(const Common&) override {
        const auto card = openForReading(source_);
        if (!card) return report(card.error());
        const auto seen = inspectSource(card.value());
        json_ ? printJson(seen) : printText(seen);
        return kDone;
    }

  private:
    static void printJson(const Inspection& seen) {
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
        std::cout << out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << std::endl;
    }
    static void printText(const Inspection& seen) {
        std::cout << seen.facts.path << ": " << humanSize(seen.facts.size) << ", sectors of "
                  << seen.facts.sectorSize << " bytes\n";
        std::cout << seen.look.sentence << "\n";
        for (const auto& fact : seen.look.facts) std::cout << "  " << fact << "\n";
        std::cout << std::flush;
    }

    std::string source_;
    bool json_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeInspect() {
    return std::make_unique<Inspect>();
}

}  // namespace dreskel::cli
