#include "formats/registry.h"

#include <algorithm>

#include "formats/families.h"
#include "formats/isobmff/iso_format.h"
#include "formats/jpeg/jpeg_format.h"
#include "formats/riff/wav_format.h"

namespace dreskel {

const std::vector<const Format*>& allFormats() {
    static const jpeg::JpegFormat jpegFormat;
    static const isobmff::IsoFormat isoFormat;
    static const riff::WavFormat wavFormat;
    static const std::vector<const Format*> all{
        &jpegFormat,  &isoFormat,         &isoPictureFormat(), &wavFormat,         &pngFormat(),
        &gifFormat(), &bmpFormat(),       &webpFormat(),       &tiffFormat(),      &rawFormat(),
        &aviFormat(), &matroskaFormat(),  &asfFormat(),        &flvFormat(),       &mxfFormat(),
        &dvFormat(),  &transportFormat(), &programFormat(),    &mpegAudioFormat(), &adtsFormat(),
        &amrFormat(), &oggFormat(),       &flacFormat(),       &aiffFormat(),      &cafFormat(),
        &midiFormat()};
    return all;
}

const Format* formatFor(std::string_view shortName) {
    for (const auto* format : allFormats()) {
        const auto names = format->formats();
        if (std::find(names.begin(), names.end(), shortName) != names.end()) return format;
    }
    return nullptr;
}

const Format* familyNamed(std::string_view name) {
    for (const auto* format : allFormats()) {
        if (format->name() == name) return format;
    }
    return nullptr;
}

}  // namespace dreskel
