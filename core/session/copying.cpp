#include "session/copying.h"

#include <filesystem>

#include "copy/ahead.h"
#include "deliver/destination.h"

namespace dreskel {
namespace {

namespace fs = std::filesystem;

constexpr int kSectorsCompared = 4;

// Why a copy that is there may be gone on with; an error when it may not.
Result<std::string> recognise(const Source& card, const CopyRequest& request) {
    const auto copy = openCopy(request.image, request.map);
    if (!copy) return copy.error();
    const auto known = readMap(request.map);
    if (!known) return known.error();
    const auto same = sameContent(card, *copy.value(), *copy.value()->map(), kSectorsCompared);
    if (same && !*same) {
        return Error{Fault::DestinationRefused, "The copy there is of another card: its contents differ",
                     request.image, "Choose another name for the copy, or put that card in"};
    }
    const auto& before = known.value().card;
    std::string why = before.path == card.path() ? "the same device" : "before at " + before.path;
    if (!request.serial.empty() && request.serial == before.serial) why += ", the same serial number";
    why += ", the same size";
    if (same) why += ", the same contents where compared";
    return why;
}

}  // namespace

CopyView viewOf(const CopyMap& map) {
    CopyView view;
    view.cells = map.cells();
    count(view.cells, {0, map.size()}, view.progress);
    view.progress.stage = CopyStage::Done;
    return view;
}

Result<std::shared_ptr<Copying>> Copying::begin(std::shared_ptr<Source> card, CopyRequest request) {
    std::error_code failed;
    request.image = fs::absolute(request.image, failed).string();
    if (request.map.empty()) request.map = mapPathFor(request.image);
    const auto folder = fs::path(request.image).parent_path().string();
    if (!fs::is_directory(folder, failed)) {
        return Error{Fault::DestinationRefused, "There is no such folder for the copy", folder,
                     "Make the folder first, or choose another"};
    }
    const auto whole = ByteRange{0, card->size()};
    const auto span = request.options.span.length == 0 ? whole : request.options.span;
    std::uint64_t needed = std::min(span.length, card->size() - std::min(span.offset, card->size()));
    std::string recognised;
    if (fs::exists(request.image, failed) && isMap(request.map)) {
        auto known = recognise(*card, request);
        if (!known) return known.error();
        recognised = known.value();
        const auto map = readMap(request.map);
        needed = 0;
        for (const auto& range : map.value().map->unread(span)) needed += range.length;
    }
    if (auto checked = checkDestination(*card, folder, needed); !checked) return checked.error();
    auto image = CopyImage::open(request.image, request.map,
                                 {card->path(), request.serial, card->size(), card->sectorSize()});
    if (!image) return image.error();
    std::shared_ptr<Copying> copying(new Copying(std::move(card), image.value(), request.options));
    copying->recognised_ = std::move(recognised);
    return copying;
}

Status Copying::run(Control& control, const Copier::Show& show, std::uint64_t showFrom) {
    running_ = true;
    auto outcome = copier_.run(control, show, showFrom);
    if (outcome && image_->sha256().empty()) {
        hashing_ = true;
        if (const auto sum = image_->hash(control); !sum) outcome = sum.error();
        hashing_ = false;
    }
    running_ = false;
    return outcome;
}

std::shared_ptr<const Source> Copying::ahead() const {
    auto opened = AheadOfCopy::open(card_, image_, span_);
    return opened ? opened.value() : nullptr;
}

CopyView Copying::view() const {
    CopyView view;
    view.progress = copier_.progress();
    if (hashing_) view.progress.stage = CopyStage::Hashing;
    view.cells = image_->map().cells();
    view.underWay = running_;
    return view;
}

}  // namespace dreskel
