// One save to another drive: the files, checked, and the manifest that says what became of each.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/control.h"
#include "base/result.h"
#include "deliver/naming.h"
#include "deliver/phrases.h"
#include "job/job.h"
#include "source/source.h"

namespace dreskel {

// A version of a partial file that opens, saved beside it; see deliver/version.h.
struct SavedVersion {
    std::string savedAs;  // relative to the destination; empty when there is none
    std::string sha256;
    std::uint64_t size = 0;
    bool verified = false;
    std::string made;    // what was done
    std::string whyNot;  // why there is none though one was asked for
};

struct DeliveryItem {
    Finding finding;
    std::string savedAs;  // relative to the destination; empty when it was not saved
    std::string sha256;
    bool verified = false;
    bool before = false;  // an earlier delivery had saved it there already; read again and found the same
    std::string whyNot;   // why it was not saved
    SavedVersion version;
};

struct DeliveryProgress {
    std::size_t filesDone = 0, files = 0;
    std::uint64_t bytesDone = 0, bytes = 0;  // written
    std::string current;                     // path of the file being written
};

struct DeliverySum {
    std::string folder;
    Layout layout = Layout::Kind;
    std::string manifest;  // path of the JSON one; empty when it could not be written
    std::string manifestWhyNot;
    std::string report;        // path of the page for the client; empty when none was asked for
    std::string reportWhyNot;  // why there is none though it was
    std::vector<DeliveryItem> items;
    std::size_t saved = 0, verified = 0, notSaved = 0;
    std::size_t before = 0;    // of the saved ones
    std::size_t versions = 0;  // that open, beside files that are not whole
    std::uint64_t bytes = 0;   // saved, of the files themselves
};

struct DeliveryRequest {
    std::string destination;
    Layout layout = Layout::Kind;
    std::vector<Finding> files;
    NamePattern names = {};
    bool versions = false;  // beside each partial file, one that opens, where one can be made
    bool report = false;    // a page for the client, and pages to choose from; see deliver/report.h
    std::string shop = {};  // path of the shop's facts; see deliver/shop.h
    std::optional<Language> language = {};  // of the report, where it is not the shop's
};

// Blocks. The destination is checked first: on Fault::DestinationRefused nothing was written. A file that
// cannot be saved is told in its item and the rest goes on. Stopped through `control`, it returns what was
// done so far, with the manifest written for it. What an earlier delivery of the same card in the same layout
// left in the folder, finished, stopped or killed, is read again and not written twice.
Result<DeliverySum> deliver(const Job& job, std::shared_ptr<Source> source, const DeliveryRequest& request,
                            Control& control, const std::function<void(const DeliveryProgress&)>& progress);

}  // namespace dreskel
