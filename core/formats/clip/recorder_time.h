// When a camcorder took what is in an H.264 stream, by the note that it writes into the stream itself: user
// data (ITU-T H.264, D.1.7, "user data unregistered") whose identifier ends in MDPM, then records of a tag
// and four bytes. The meaning of the tags was observed in recordings; 0x18 and 0x19 hold the date and time in
// BCD.
#pragma once

#include <string>

#include "base/bytes.h"

namespace dreskel {

// `stream`: the beginning of it, in any framing. ISO 8601, local time; empty when it says nothing.
std::string recorderTime(Bytes stream);

}  // namespace dreskel
