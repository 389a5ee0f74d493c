#include "deliver/delivery.h"

#include <algorithm>
#include <chrono>
#include <deque>
#include <filesystem>
#include <future>
#include <set>

#include "base/iso_time.h"
#include "deliver/camera_card.h"
#include "deliver/delivered_before.h"
#include "deliver/destination.h"
#include "deliver/file_writer.h"
#include "deliver/manifest.h"
#include "deliver/report.h"
#include "deliver/report_html.h"
#include "deliver/report_pdf.h"
#include "deliver/version.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;

// Files are flushed and read back in batches, each while the next one is written: one small file at a time,
// the drive would be flushed thousands of times. A batch is no older than a second when it is closed.
constexpr std::size_t kVerifying = 2;  // batches, beside the one that is written
constexpr std::size_t kBatchFiles = 128;
constexpr std::uint64_t kBatchBytes = 64 << 20;
constexpr std::chrono::seconds kBatchAge{1};

std::uint64_t bytesNeeded(const std::vector<Finding>& files) {
    std::uint64_t sum = 1U << 20;  // for the manifests
    for (const auto& file : files) sum += (file.size() + 4095) / 4096 * 4096 + 4096;
    return sum;
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
        shop = usualShop();
    }
    if (request.language) {
        const bool usual = shop.value().advice == phrasesIn(shop.value().language).advice;
        shop.value().language = *request.language;
        if (usual) shop.value().advice = phrasesIn(*request.language).advice;
    }
    const auto write = [&](const Report& report, const std::string& name) {
        const auto html = (root / (name + ".html")).string();
        auto written = writeText(html, htmlOf(job, report));
        if (written) {
            const auto paper = pdfOf(job, report);
            written =
                paper.ok() ? writeText((root / (name + ".pdf")).string(), paper.value()) : paper.error();
        }
        if (!written) sum.reportWhyNot = written.error().sentence();
        return html;
    };
    const auto report = write(deliveryReport(job, sum, shop.value()), "report" + number);
    std::size_t page = 1;
    for (const auto& part : contactPages(job, shop.value())) {
        write(part, "pages" + number + (page == 1 ? "" : "-from-" + std::to_string(page)));
        page += part.pages.size();
    }
    std::error_code failed;
    if (fs::exists(report, failed)) sum.report = report;
}

// Three lists; the names of the files are on the medium before they are.
Status writeManifests(const Job& job, const fs::path& root, const std::string& stem, DeliverySum& sum) {
    if (auto flushed = flushAll(root.string()); !flushed) return flushed;
    std::set<fs::path> folders;
    for (const auto& item : sum.items) {
        for (const auto* name : {&item.savedAs, &item.version.savedAs}) {
            for (auto path = fs::path(*name); path.has_parent_path(); path = path.parent_path())
                folders.insert(path.parent_path());
        }
    }
    for (const auto& folder : folders) flushFolder((root / folder).string());
    const auto json = (root / (stem + ".json")).string();
    if (auto written = writeText(json, manifestJson(job, sum)); !written) return written;
    sum.manifest = json;
    if (auto written = writeText((root / (stem + ".csv")).string(), manifestCsv(sum)); !written)
        return written;
    auto written = writeText((root / (stem + ".sha256")).string(), checksumsOf(sum));
    flushFolder(root.string());
    return written;
}

// As its directory has it, or else when it was taken.
std::optional<std::int64_t> timeOf(const Finding& file) {
    if (const auto modified = secondsOf(file.modified, true)) return modified;
    return secondsOf(file.description.taken, true);
}

// "name (what plays).mp4", for "name (partial).mp4" too.
std::string besideName(const std::string& path, const Version& version) {
    constexpr std::string_view kPartial = " (partial)";
    const fs::path own(path);
    auto stem = own.stem().string();
    if (stem.ends_with(kPartial)) stem.resize(stem.size() - kPartial.size());
    const auto extension = version.extension.empty() ? own.extension().string() : version.extension;
    return (own.parent_path() / (stem + " (" + version.called + ")" + extension)).string();
}

// One delivery under way: files are written one behind the other, and read back while the next ones are
// written.
class Delivering {
  public:
    Delivering(const std::shared_ptr<Source>& source, const DeliveryRequest& request, const fs::path& root,
               CardView& card, DeliveredBefore& before, Control& control,
               const std::function<void(const DeliveryProgress&)>& progress)
        : request_(request),
          root_(root),
          card_(card),
          before_(before),
          control_(control),
          progress_(progress),
          versions_(source, card) {
        at_.files = request.files.size();
        for (const auto& file : request.files) at_.bytes += file.size();
        for (const auto& file : request.files) byId_[file.id] = &file;
        if (request.layout == Layout::Dcf) cameraNames_ = cameraPaths(request.files);
    }

    std::vector<DeliveryItem> run();

  private:
    struct Pending {
        std::size_t index;
        bool isVersion;
        Written written;
        std::string relative;
        std::string wanted;       // the name, had nothing had it
        std::string sha256 = {};  // of what was read back
    };
    struct Batch {
        std::vector<Pending> files;
        std::future<std::vector<Result<std::string>>> verified;  // the SHA-256 of each
    };

    // A name that nothing has, here or from an earlier delivery.
    std::string claim(const std::string& wanted);
    std::string wantedFor(const Finding& file) const;
    // The same bytes stand under the name that was wished for since before this delivery: one that was
    // stopped had come so far and no further.
    bool standsThere(const Pending& pending);
    Status write(std::size_t index, bool isVersion, const std::vector<Piece>& pieces,
                 const std::string& wanted);
    void saveVersion(std::size_t index, const std::string& beside);
    bool stillThere(const DeliveredFile& saved);
    bool takeFromBefore(std::size_t index);
    void closeBatch();
    void settleFirst();
    void settle(const Pending& file, Status outcome);
    void tell() { progress_(at_); }

    const DeliveryRequest& request_;
    const fs::path& root_;
    CardView& card_;
    DeliveredBefore& before_;
    Control& control_;
    const std::function<void(const DeliveryProgress&)>& progress_;
    VersionMaker versions_;
    std::map<std::int64_t, const Finding*> byId_;
    std::map<std::int64_t, std::string> cameraNames_;
    NameBook names_;
    std::set<std::string> claimed_;  // by this delivery
    std::set<std::string> cleared_;  // folders, of what others left in them
    DeliveryProgress at_;
    std::vector<DeliveryItem> items_;
    std::vector<Pending> open_;  // the batch that is being written
    std::uint64_t openBytes_ = 0;
    std::chrono::steady_clock::time_point opened_{};
    std::deque<Batch> closed_;
};

std::string Delivering::wantedFor(const Finding& file) const {
    if (request_.layout == Layout::Dcf) return cameraNames_.at(file.id);
    const auto owner = file.belongsTo ? byId_.find(*file.belongsTo) : byId_.end();
    return owner == byId_.end() || owner->first == file.id
               ? proposePath(file, request_.layout, request_.names)
               : proposeBeside(*owner->second, file, request_.layout, request_.names);
}

std::string Delivering::claim(const std::string& wanted) {
    std::error_code failed;
    for (;;) {
        auto relative = names_.claim(wanted);
        if (fs::exists(fs::symlink_status(root_ / relative, failed))) continue;
        claimed_.insert(relative);
        return relative;
    }
}

bool Delivering::standsThere(const Pending& pending) {
    return pending.relative != pending.wanted && !claimed_.contains(pending.wanted) &&
           stillThere({pending.wanted, pending.sha256, pending.written.size, {}});
}

Status Delivering::write(std::size_t index, bool isVersion, const std::vector<Piece>& pieces,
                         const std::string& wanted) {
    const auto relative = claim(wanted);
    (isVersion ? items_[index].version.savedAs : items_[index].savedAs) = relative;
    const auto target = (root_ / relative).string();
    std::error_code failed;
    const auto folder = fs::path(target).parent_path();
    fs::create_directories(folder, failed);
    // A drive that was pulled out may have kept what was being written and lost the log that tells of it.
    if (cleared_.insert(folder.string()).second) removeAbandoned(folder.string());
    at_.current = relative;
    tell();
    PieceReader bytes(card_, pieces);
    auto written = writeTemporary(bytes, target, control_, [&](std::uint64_t count) {
        if (!isVersion) at_.bytesDone += count;
        tell();
    });
    if (!written) return written.error();
    if (open_.empty()) opened_ = std::chrono::steady_clock::now();
    openBytes_ += written.value().size;
    open_.push_back({index, isVersion, std::move(written.value()), relative, wanted});
    if (open_.size() >= kBatchFiles || openBytes_ >= kBatchBytes ||
        std::chrono::steady_clock::now() - opened_ >= kBatchAge)
        closeBatch();
    return Done{};
}

void Delivering::closeBatch() {
    if (open_.empty()) return;
    std::vector<Written> files;
    for (const auto& file : open_) files.push_back(file.written);
    auto verified =
        std::async(std::launch::async, [files = std::move(files), root = root_, &control = control_] {
            // Where all of it cannot be flushed at once, each file tells for itself.
            const bool flushed = flushesAtOnce(root.string()) && flushAll(root.string()).ok();
            std::vector<Result<std::string>> all;
            for (const auto& file : files) {
                const Status known = flushed ? Status(Done{}) : flushTemporary(file);
                all.push_back(known ? verifyTemporary(file, control) : known.error());
            }
            return all;
        });
    closed_.push_back({std::move(open_), std::move(verified)});
    open_.clear();
    openBytes_ = 0;
    if (closed_.size() > kVerifying) settleFirst();
}

void Delivering::settleFirst() {
    auto batch = std::move(closed_.front());
    closed_.pop_front();
    auto verified = batch.verified.get();
    for (std::size_t i = 0; i < batch.files.size(); ++i) {
        if (verified[i]) batch.files[i].sha256 = verified[i].value();
        settle(batch.files[i], verified[i] ? Status(Done{}) : verified[i].error());
    }
}

void Delivering::settle(const Pending& first, Status outcome) {
    auto& item = items_[first.index];
    std::error_code failed;
    if (outcome) {
        if (standsThere(first)) {
            fs::remove(first.written.temporary, failed);
            (first.isVersion ? item.version.savedAs : item.savedAs) = first.wanted;
            item.before = item.before || !first.isVersion;
        } else {
            if (const auto when = timeOf(item.finding)) setModified(first.written, *when);
            outcome = giveName(first.written, (root_ / first.relative).string());
        }
    } else {
        fs::remove(first.written.temporary, failed);
    }
    if (first.isVersion) {
        auto& version = item.version;
        version.verified = outcome.ok();
        version.sha256 = first.sha256;
        version.size = first.written.size;
        if (outcome) {
            before_.add(item.finding, {version.savedAs, version.sha256, version.size, version.made}, true);
            return;
        }
        version.savedAs.clear();
        version.whyNot = outcome.error().sentence();
        return;
    }
    if (outcome) {
        item.verified = true;
        item.sha256 = first.sha256;
        before_.add(item.finding, {item.savedAs, item.sha256, first.written.size, {}}, false);
    } else {
        item.savedAs.clear();
        item.whyNot = outcome.error().sentence();
    }
    ++at_.filesDone;
    tell();
}

bool Delivering::stillThere(const DeliveredFile& saved) {
    const auto path = root_ / saved.savedAs;
    std::error_code failed;
    if (!fs::is_regular_file(fs::symlink_status(path, failed)) || fs::file_size(path, failed) != saved.size)
        return false;
    const auto sum = sha256OnMedium(path.string(), saved.size, control_);
    return sum.ok() && sum.value() == saved.sha256;
}

bool Delivering::takeFromBefore(std::size_t index) {
    auto& item = items_[index];
    const auto saved = before_.file(item.finding);
    if (!saved || saved->size != item.finding.size() || !stillThere(*saved)) return false;
    item.savedAs = saved->savedAs;
    item.sha256 = saved->sha256;
    item.verified = item.before = true;
    at_.bytesDone += saved->size;
    ++at_.filesDone;
    tell();
    return true;
}

void Delivering::saveVersion(std::size_t index, const std::string& beside) {
    const auto saved = before_.version(items_[index].finding);
    if (saved && stillThere(*saved)) {
        items_[index].version = {saved->savedAs, saved->sha256, saved->size, true, saved->made, {}};
        return;
    }
    auto version = versions_.of(items_[index].finding, control_);
    if (!version) {
        items_[index].version.whyNot = version.error().sentence();
        return;
    }
    if (!version.value()) return;
    const auto& made = *version.value();
    items_[index].version.made = made.made;
    const auto outcome = write(index, true, made.pieces, besideName(beside, made));
    if (outcome) return;
    items_[index].version.savedAs.clear();
    items_[index].version.whyNot = outcome.error().sentence();
}

std::vector<DeliveryItem> Delivering::run() {
    for (const auto& file : request_.files) {
        const auto index = items_.size();
        items_.push_back({});
        items_[index].finding = file;
        if (control_.stopped()) {
            items_[index].whyNot = "stopped before its turn";
            continue;
        }
        const bool forCamera = request_.layout == Layout::Dcf;
        if (!takeFromBefore(index)) {
            if (const auto outcome = write(index, false, file.pieces, wantedFor(file)); !outcome) {
                items_[index].savedAs.clear();
                items_[index].whyNot = outcome.error().sentence();
                ++at_.filesDone;
                continue;
            }
        }
        // Settling may clear the name of a file that did not come through; what is beside it does not depend
        // on that.
        const auto beside = items_[index].savedAs.empty() ? wantedFor(file) : items_[index].savedAs;
        if (request_.versions && !forCamera && VersionMaker::fits(file) && !control_.stopped())
            saveVersion(index, beside);
    }
    closeBatch();
    while (!closed_.empty()) settleFirst();
    return std::move(items_);
}

}  // namespace

Result<DeliverySum> deliver(const Job& job, std::shared_ptr<Source> source, const DeliveryRequest& request,
                            Control& control, const std::function<void(const DeliveryProgress&)>& progress) {
    if (auto allowed = checkDestination(*source, request.destination, 0); !allowed) return allowed.error();
    std::error_code failed;
    const fs::path root = fs::absolute(request.destination, failed);
    DeliveredBefore before(root, job.source(), request.layout);
    // A card for a camera has numbers without a gap or a clash: it begins empty, or goes on with the same
    // files.
    if (request.layout == Layout::Dcf && !before.agreesWith(request.files, cameraPaths(request.files))) {
        if (auto empty = checkEmpty(request.destination); !empty) return empty.error();
    }
    auto toWrite = request.files;
    std::erase_if(toWrite, [&](const Finding& file) { return before.file(file).has_value(); });
    if (auto room = checkDestination(*source, request.destination, bytesNeeded(toWrite)); !room)
        return room.error();
    fs::create_directories(root, failed);
    if (failed) {
        return Error{Fault::DestinationRefused, "The folder could not be made: " + failed.message(),
                     root.string(), "Choose another folder"};
    }
    DeliverySum sum;
    sum.folder = root.string();
    sum.layout = request.layout;
    CardView card(source);
    for (const auto& range : job.unreadable()) card.markUnreadable(range);
    sum.items = Delivering(source, request, root, card, before, control, progress).run();

    for (const auto& item : sum.items) {
        if (item.savedAs.empty()) {
            ++sum.notSaved;
            continue;
        }
        ++sum.saved;
        sum.verified += item.verified ? 1 : 0;
        sum.before += item.before ? 1 : 0;
        sum.bytes += item.finding.size();
        sum.versions += item.version.savedAs.empty() ? 0 : 1;
    }
    const auto stem = freeStem(root);
    const auto lists = writeManifests(job, root, stem, sum);
    if (!lists) sum.manifestWhyNot = lists.error().sentence();
    // Without its lists the log is what the next delivery here goes on from.
    if (lists) before.finish();
    if (request.report) writeReport(job, request, root, stem.substr(std::string("manifest").size()), sum);
    return sum;
}

}  // namespace dreskel
