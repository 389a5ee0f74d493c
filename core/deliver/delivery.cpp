#include "deliver/delivery.h"

#include <algorithm>
#include <deque>
#include <filesystem>
#include <future>
#include <nlohmann/json.hpp>

#include "base/iso_time.h"
#include "deliver/camera_card.h"
#include "deliver/destination.h"
#include "deliver/file_writer.h"
#include "deliver/report.h"
#include "job/finding_json.h"
#include "job/listing.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;

// Files whose reading back is under way while the next ones are written.
constexpr std::size_t kVerifying = 2;

std::uint64_t bytesNeeded(const std::vector<Finding>& files) {
    std::uint64_t sum = 1U << 20;  // for the manifests
    for (const auto& file : files) sum += (file.size() + 4095) / 4096 * 4096 + 4096;
    return sum;
}

std::string quoted(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"') out.push_back('"');
        out.push_back(c == '\n' || c == '\r' ? ' ' : c);
    }
    return out + "\"";
}

std::string csvOf(const DeliverySum& sum) {
    std::string text = "id,kind,format,size,condition,decoded,taken,camera,saved_as,sha256,verified,note\r\n";
    for (const auto& item : sum.items) {
        const auto& finding = item.finding;
        text += std::to_string(finding.id) + "," + std::string(toWord(finding.kind)) + "," + finding.format +
                "," + std::to_string(finding.size()) + "," + std::string(toWord(finding.condition)) + "," +
                std::to_string(finding.decoded) + "," + quoted(finding.description.taken) + "," +
                quoted(finding.description.camera) + "," + quoted(item.savedAs) + "," + item.sha256 + "," +
                (item.verified ? "yes" : "no") + "," +
                quoted(item.whyNot.empty() ? finding.why : item.whyNot) + "\r\n";
    }
    return text;
}

std::string jsonOf(const Job& job, const DeliverySum& sum) {
    auto list = listingHead(job);
    list["files"] = nlohmann::ordered_json::array();
    for (const auto& item : sum.items) {
        auto entry = entryOf(item.finding);
        entry["saved_as"] =
            item.savedAs.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(item.savedAs);
        entry["sha256"] =
            item.sha256.empty() ? nlohmann::ordered_json(nullptr) : nlohmann::ordered_json(item.sha256);
        entry["verified"] = item.verified;
        if (!item.whyNot.empty()) entry["not_saved"] = item.whyNot;
        list["files"].push_back(std::move(entry));
    }
    return list.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

// As `sha256sum -c` reads it: a line with a backslash in front where the name holds one or a line's end.
std::string checksumsOf(const DeliverySum& sum) {
    std::string text;
    for (const auto& item : sum.items) {
        if (item.savedAs.empty() || item.sha256.empty()) continue;
        std::string name;
        for (const char c : item.savedAs) {
            if (c == '\\')
                name += "\\\\";
            else if (c == '\n')
                name += "\\n";
            else
                name.push_back(c);
        }
        text += (name == item.savedAs ? "" : "\\") + item.sha256 + "  " + name + "\n";
    }
    return text;
}

// manifest.json, or manifest-2.json where an earlier delivery left one.
std::string freeStem(const fs::path& folder) {
    for (int number = 1;; ++number) {
        const auto stem = number == 1 ? std::string("manifest") : "manifest-" + std::to_string(number);
        std::error_code failed;
        if (!fs::exists(folder / (stem + ".json"), failed) && !fs::exists(folder / (stem + ".csv"), failed))
            return stem;
    }
}

// Files are saved whether or not there is a page about them.
void writeReport(const Job& job, const DeliveryRequest& request, const fs::path& root,
                 const std::string& number, DeliverySum& sum) {
    auto shop = readShop(request.shop);
    if (!shop) {
        sum.reportWhyNot = shop.error().sentence();
        shop = Shop{{}, {}, {}, {}, usualAdvice()};
    }
    const auto path = (root / ("report" + number + ".html")).string();
    const auto pages = (root / ("pages" + number + ".html")).string();
    auto written = writeText(path, reportOf(job, sum, shop.value()));
    if (written) written = writeText(pages, contactPagesOf(job, shop.value()));
    if (written)
        sum.report = path;
    else
        sum.reportWhyNot = written.error().sentence();
}

struct Pending {
    std::size_t index;
    Written written;
    std::string target;
    std::future<Status> verified;
};

// As its directory has it, or else when it was taken.
std::optional<std::int64_t> timeOf(const Finding& file) {
    if (const auto modified = secondsOf(file.modified, true)) return modified;
    return secondsOf(file.description.taken, true);
}

}  // namespace

Result<DeliverySum> deliver(const Job& job, std::shared_ptr<Source> source, const DeliveryRequest& request,
                            Control& control, const std::function<void(const DeliveryProgress&)>& progress) {
    if (auto allowed = checkDestination(*source, request.destination, bytesNeeded(request.files)); !allowed) {
        return allowed.error();
    }
    const bool forCamera = request.layout == Layout::Dcf;
    if (forCamera) {
        if (auto empty = checkEmpty(request.destination); !empty) return empty.error();
    }
    const auto cameraNames = forCamera ? cameraPaths(request.files) : std::map<std::int64_t, std::string>();
    std::error_code failed;
    const fs::path root = fs::absolute(request.destination, failed);
    fs::create_directories(root, failed);
    if (failed) {
        return Error{Fault::DestinationRefused, "The folder could not be made: " + failed.message(),
                     root.string(), "Choose another folder"};
    }
    DeliverySum sum;
    sum.folder = root.string();
    CardView card(source);
    for (const auto& range : job.unreadable()) card.markUnreadable(range);
    NameBook names;
    DeliveryProgress at;
    at.files = request.files.size();
    for (const auto& file : request.files) at.bytes += file.size();
    std::deque<Pending> pending;

    const auto settleFirst = [&] {
        auto first = std::move(pending.front());
        pending.pop_front();
        auto outcome = first.verified.get();
        auto& item = sum.items[first.index];
        if (outcome) {
            if (const auto when = timeOf(request.files[first.index])) setModified(first.written, *when);
            outcome = giveName(first.written, first.target);
        } else {
            fs::remove(first.written.temporary, failed);
        }
        if (outcome) {
            item.verified = true;
            item.sha256 = first.written.sha256;
        } else {
            item.savedAs.clear();
            item.whyNot = outcome.error().sentence();
        }
        ++at.filesDone;
        progress(at);
    };

    for (const auto& file : request.files) {
        DeliveryItem item;
        item.finding = file;
        const auto index = sum.items.size();
        if (control.stopped()) {
            item.whyNot = "stopped before its turn";
            sum.items.push_back(std::move(item));
            continue;
        }
        // A name that an earlier delivery took is left alone.
        std::string relative;
        do {
            relative = names.claim(forCamera ? cameraNames.at(file.id) : proposePath(file, request.layout));
        } while (fs::exists(fs::symlink_status(root / relative, failed)));
        const auto target = (root / relative).string();
        fs::create_directories(fs::path(target).parent_path(), failed);
        at.current = relative;
        progress(at);
        PieceReader bytes(card, file.pieces);
        auto written = writeTemporary(bytes, target, control, [&](std::uint64_t count) {
            at.bytesDone += count;
            progress(at);
        });
        if (!written) {
            item.whyNot = written.error().sentence();
            sum.items.push_back(std::move(item));
            ++at.filesDone;
            continue;
        }
        item.savedAs = relative;
        sum.items.push_back(std::move(item));
        auto check = std::async(std::launch::async, [what = written.value(), &control] {
            return verifyTemporary(what, control);
        });
        pending.push_back({index, std::move(written.value()), target, std::move(check)});
        if (pending.size() >= kVerifying) settleFirst();
    }
    while (!pending.empty()) settleFirst();

    for (const auto& item : sum.items) {
        if (item.savedAs.empty()) {
            ++sum.notSaved;
            continue;
        }
        ++sum.saved;
        sum.verified += item.verified ? 1 : 0;
        sum.bytes += item.finding.size();
    }
    const auto stem = freeStem(root);
    sum.manifest = (root / (stem + ".json")).string();
    if (auto written = writeText(sum.manifest, jsonOf(job, sum)); !written) return written.error();
    if (auto written = writeText((root / (stem + ".csv")).string(), csvOf(sum)); !written)
        return written.error();
    if (auto written = writeText((root / (stem + ".sha256")).string(), checksumsOf(sum)); !written)
        return written.error();
    if (request.report) writeReport(job, request, root, stem.substr(std::string("manifest").size()), sum);
    return sum;
}

}  // namespace dreskel
