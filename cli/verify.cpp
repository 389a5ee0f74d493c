#include <iostream>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "cli/verb.h"
#include "deliver/verification.h"

namespace dreskel::cli {
namespace {

class Verify : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("folder", folder_, "The folder that files were saved to")->required();
    }
    int run(const Common& common) override {
        Control control;
        const auto check = checkDelivery(folder_, control, [&](std::size_t done, std::size_t files) {
            if (interruptAsked()) control.stop();
            if (common.progress == "json")
                std::cerr << jsonText(nlohmann::ordered_json{
                                 {"state", "verifying"}, {"files_done", done}, {"files", files}})
                          << "\n";
        });
        if (!check) return report(check.error());
        for (const auto& [path, why] : check.value().wrong) std::cout << path << ": " << why << "\n";
        if (!common.quiet) {
            std::cerr << check.value().same << " of " << check.value().files
                      << " files are as they were saved.\n";
        }
        return check.value().wrong.empty() ? kDone : kPartly;
    }

  private:
    std::string folder_;
};

}  // namespace

std::unique_ptr<Verb> makeVerify() {
    return std::make_unique<Verify>();
}

}  // namespace dreskel::cli
