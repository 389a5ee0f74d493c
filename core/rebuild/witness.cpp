#include "rebuild/witness.h"

#include <algorithm>

namespace dreskel::rebuild {

std::vector<Witness> witnessesOf(const LooseIndex& index) {
    std::vector<Witness> all;
    for (const auto& track : index.tracks) {
        if (track.coding == isobmff::SampleTrack::Coding::Other) continue;
        for (const auto& sample : track.samples) {
            if (sample.size > kTellsNothing) all.push_back({&track, &sample});
        }
    }
    std::sort(all.begin(), all.end(),
              [](const Witness& a, const Witness& b) { return a.sample->offset < b.sample->offset; });
    return all;
}

isobmff::Looks looksAt(CardView& card, const Witness& witness, std::uint64_t place,
                       std::vector<std::uint8_t>& buffer) {
    return isobmff::looksLikeSample(*witness.track, *witness.sample, [&](std::uint64_t p, std::size_t count) {
        buffer.resize(count);
        return Bytes(buffer).first(card.read(place + p, buffer));
    });
}

}  // namespace dreskel::rebuild
