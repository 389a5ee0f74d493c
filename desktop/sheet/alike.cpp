#include "desktop/sheet/alike.h"

#include <algorithm>
#include <QFileInfo>

#include "desktop/look/look.h"
#include "desktop/look/text.h"
#include "desktop/sheet/thumbnails.h"
#include "media/decoder_process.h"

namespace dreskel {
namespace {

constexpr int kSide = 320;
constexpr std::size_t kAtOnce = 1 << 20;

bool readAll(const Source& source, std::uint64_t offset, MutableBytes into) {
    const auto outcome = source.read(offset, into);
    return outcome.error == 0 && outcome.count == into.size();
}

// A file of the client's is as strange as one from a card: the worker decodes it.
std::optional<media::Likeness> likenessOfFile(const std::shared_ptr<Source>& file, Control& control) {
    std::array<std::uint8_t, 2> head{};
    const bool jpeg = readAll(*file, 0, head) && head == std::array<std::uint8_t, 2>{0xff, 0xd8};
    media::DecoderProcess decoder(file);
    const auto picture =
        decoder.photo({{PieceFrom::Card, 0, file->size(), {}}}, jpeg ? "jpeg" : "other", kSide, &control);
    if (!picture) return std::nullopt;
    return media::likenessOf(picture.value());
}

bool sameBytes(const Source& card, const Finding& finding, const Source& file) {
    std::vector<std::uint8_t> here(kAtOnce), there(kAtOnce);
    std::uint64_t at = 0;
    for (const auto& piece : finding.pieces) {
        for (std::uint64_t done = 0; done < piece.length;) {
            const auto length =
                static_cast<std::size_t>(std::min<std::uint64_t>(kAtOnce, piece.length - done));
            const MutableBytes mine(here.data(), length);
            if (piece.from == PieceFrom::Card) {
                if (!readAll(card, piece.offset + done, mine)) return false;
            } else if (piece.made) {
                std::copy_n(piece.made->begin() + static_cast<std::ptrdiff_t>(done), length, mine.begin());
            } else {
                return false;
            }
            if (!readAll(file, at, MutableBytes(there.data(), length)) ||
                !std::equal(mine.begin(), mine.end(), there.begin()))
                return false;
            done += length;
            at += length;
        }
    }
    return true;
}

}  // namespace

const std::optional<media::Likeness>& Alike::of(const std::shared_ptr<const Finding>& finding) {
    auto& known = known_[finding->id];
    if (known.finding == finding) return known.likeness;
    known.finding = finding;
    known.likeness =
        media::likenessOf(uprightPreview(session_->preview(finding->id), finding->description.orientation));
    return known.likeness;
}

AlikeAnswer Alike::likeFile(const AlikeRequest& request) {
    AlikeAnswer answer;
    const auto name = QFileInfo(request.path).fileName();
    const auto opened = openSource(request.path.toStdString());
    if (!opened) return {{}, {}, {}, Text::ofCore(opened.error())};
    const auto& file = *opened.value();
    std::size_t same = 0;
    for (const auto& finding : request.files) {
        if (control_.stopped()) break;
        if (!finding->listed() || finding->size() != file.size()) continue;
        if (!sameBytes(*session_->source(), *finding, file)) continue;
        answer.ids.insert(finding->id);
        ++same;
    }
    const auto likeness = likenessOfFile(opened.value(), control_);
    if (likeness) {
        for (const auto& finding : request.files) {
            if (control_.stopped()) break;
            if (!finding->listed() || finding->kind == Kind::Audio) continue;
            const auto& known = of(finding);
            if (known && media::apart(*known, *likeness) <= media::kSamePicture)
                answer.ids.insert(finding->id);
        }
    }
    if (answer.ids.isEmpty()) {
        answer.trouble =
            likeness
                ? Text::tr("%1 is not among the files: neither its bytes nor its picture.").arg(name)
                : Text::tr("The bytes of %1 are not among the files; no picture of it could be compared.")
                      .arg(name);
    } else {
        answer.what = same > 0 ? Text::tr("The bytes or the picture of %1").arg(name)
                               : Text::tr("The picture of %1").arg(name);
    }
    return answer;
}

AlikeAnswer Alike::answer(const AlikeRequest& request) {
    if (!request.path.isEmpty()) return likeFile(request);
    AlikeAnswer answer;
    const auto example = std::find_if(request.files.begin(), request.files.end(),
                                      [&](const auto& finding) { return finding->id == request.like; });
    const auto likeness = example == request.files.end() ? std::nullopt : of(*example);
    if (!likeness)
        return {{}, {}, {}, Text::tr("There is too little to see on this one to look for others like it.")};
    for (const auto& finding : request.files) {
        if (control_.stopped()) break;
        if (!finding->listed() || finding->kind == Kind::Audio) continue;
        const auto& known = of(finding);
        if (!known) continue;
        const auto apart = media::apart(*known, *likeness);
        if (apart > media::kAlike) continue;
        answer.ids.insert(finding->id);
        answer.apart[finding->id] = apart;
    }
    answer.what = Text::tr("Looks like number %1").arg(request.like);
    return answer;
}

}  // namespace dreskel
