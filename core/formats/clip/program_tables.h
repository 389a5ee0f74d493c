// What the tables of a transport stream say of its packets (ISO/IEC 13818-1, 2.4.4): which streams there are,
// and how their pictures are coded.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <set>

#include "base/bytes.h"
#include "formats/clip/picture_order.h"

namespace dreskel {

class ProgramTables {
  public:
    // The payload of a packet; `begins`: a section begins in it. Whether it names programs that the one
    // before did not: those of another recording.
    bool take(std::uint16_t pid, bool begins, Bytes payload);
    // Whether a packet of this stream is one of its programs', as far as they are known: of tables that name
    // all of their streams in one packet.
    bool mayHold(std::uint16_t pid) const;
    // Of a stream of H.264 or HEVC pictures.
    std::optional<PictureCoding> codingOf(std::uint16_t pid) const;

  private:
    bool programs(Bytes section);
    void streams(std::uint16_t pid, Bytes section);

    std::map<std::uint16_t, bool> maps_;             // where the programs' maps are; whether it has come
    std::map<std::uint16_t, std::uint8_t> streams_;  // stream_type
    bool notAll_ = false;                            // some of a table was in another packet
};

}  // namespace dreskel
