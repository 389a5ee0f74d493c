#include <iostream>

#include "cli/verb.h"
#include "demo/demo_card.h"

namespace dreskel::cli {
namespace {

class DemoCard : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("IMAGE", image_, "The image to write; its truth is written beside it")->required();
        app.add_flag("--failing", failing_,
                     "The second card, MILL-09, and the description of its failing reader");
    }
    int run(const Common& common) override {
        const auto say = [&](const std::string& what) {
            if (!common.quiet && common.progress.empty()) std::cerr << what << "\n";
        };
        const auto made = failing_ ? demo::writeFailingCard(image_, say) : demo::writeDemoCard(image_, say);
        if (!made) return report(made.error());
        if (!common.quiet) std::cerr << "Wrote " << image_ << " and " << image_ << ".truth.json\n";
        return kDone;
    }

  private:
    std::string image_;
    bool failing_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeDemoCard() {
    return std::make_unique<DemoCard>();
}

}  // namespace dreskel::cli
