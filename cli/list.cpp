#include <iostream>
#include <nlohmann/json.hpp>

#include "base/json_text.h"
#include "cli/verb.h"
#include "job/listing.h"

namespace dreskel::cli {
namespace {

class List : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("--job", job_, "The job's folder")->required();
        app.add_flag("--json", json_, "As JSON");
        app.add_flag("--embedded", embedded_, "Also what is embedded in other files");
    }
    int run(const Common&) override {
        const auto job = Job::open(job_, Job::Access::Read);
        if (!job) return report(job.error());
        const auto list = listing(*job.value(), embedded_);
        if (json_) {
            std::cout << jsonText(list, 2) << std::endl;
            return kDone;
        }
        for (const auto& file : list["files"]) {
            const auto text = [&](const char* key) {
                return file[key].is_null() ? "" : file[key].get<std::string>();
            };
            std::cout << file["id"] << "\t" << text("format") << "\t" << text("condition") << "\t"
                      << file["size"] << "\t" << text("taken") << "\t" << text("camera") << "\t"
                      << text("name") << "\n";
        }
        std::cout << std::flush;
        return kDone;
    }

  private:
    std::string job_;
    bool json_ = false;
    bool embedded_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeList() {
    return std::make_unique<List>();
}

}  // namespace dreskel::cli
