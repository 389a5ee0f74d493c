#include <iostream>

#include "cli/verb.h"
#include "job/small.h"

namespace dreskel::cli {
namespace {

class Close : public Verb {
  public:
    void declare(CLI::App& app) override {
        app.add_option("--job", job_, "The job's folder")->required();
        app.add_flag("--delete-copy", copyToo_,
                     "Delete the copy of the card that this job made; nothing can be saved from it then");
    }
    int run(const Common& common) override {
        auto job = Job::open(job_, Job::Access::Write);
        if (!job) return report(job.error());
        const auto smaller = makeSmall(*job.value(), job_, copyToo_);
        if (!smaller) return report(smaller.error());
        if (common.quiet) return kDone;
        const auto& sum = smaller.value();
        std::cerr << "The job keeps what was found, decided and noted, without small pictures: "
                  << humanSize(sum.after) << ", before " << humanSize(sum.before) << ".\n";
        if (!sum.copy.empty())
            std::cerr << "Deleted the copy " << sum.copy << ", " << humanSize(sum.copyBytes) << ".\n";
        else if (copyToo_)
            std::cerr << "There is no copy that this job made; nothing else was deleted.\n";
        return kDone;
    }

  private:
    std::string job_;
    bool copyToo_ = false;
};

}  // namespace

std::unique_ptr<Verb> makeClose() {
    return std::make_unique<Close>();
}

}  // namespace dreskel::cli
