// What earlier deliveries of the same card, laid out in the same way, left in a folder: finished ones by
// their manifests, one that was stopped or killed by the log that it kept. So a delivery goes on where it
// was.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/line_log.h"
#include "deliver/naming.h"
#include "job/finding.h"
#include "job/job.h"

namespace dreskel {

struct DeliveredFile {
    std::string savedAs;  // relative to the folder
    std::string sha256;
    std::uint64_t size = 0;
    std::string made;  // of a version that opens
};

class DeliveredBefore {
  public:
    // Removes what a killed one was writing.
    DeliveredBefore(std::filesystem::path root, const std::optional<SourceFacts>& source, Layout layout);

    // Whether something was saved, all of it is among these files, and each is where it should be: paths by
    // id.
    bool agreesWith(const std::vector<Finding>& files,
                    const std::map<std::int64_t, std::string>& paths) const;

    // As it was saved; whether it is still there is for the caller to see.
    std::optional<DeliveredFile> file(const Finding& finding) const { return find(files_, finding); }
    std::optional<DeliveredFile> version(const Finding& finding) const { return find(versions_, finding); }

    // Written down at once, so that a kill loses nothing that was done.
    void add(const Finding& finding, const DeliveredFile& saved, bool isVersion);
    // The manifest is written; the log is not needed any more.
    void finish();

  private:
    using Known = std::map<std::string, DeliveredFile>;  // by the pieces of the file

    static std::optional<DeliveredFile> find(const Known& known, const Finding& finding);
    bool readLog();
    void readManifests();
    void removeHalves() const;

    std::filesystem::path root_;
    std::string head_;  // of the log: whose delivery it is
    Known files_, versions_;
    LineLog log_;
};

}  // namespace dreskel
