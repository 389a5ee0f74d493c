// What a block of a card looks like from its bytes alone, with no file around it: for stretches that nothing
// explains, and for telling which blocks may go on with which file. A likelihood, told as such.
#pragma once

#include <string_view>

#include "base/bytes.h"

namespace dreskel {

enum class BlockKind {
    Blank,       // one and the same byte
    Text,        // letters and line ends
    Folder,      // FAT or exFAT directory entries
    PhotoData,   // entropy-coded JPEG: dense, and every FF is followed as the standard wants it
    Stream,      // MPEG transport packets
    Sound,       // plain PCM: 16-bit samples that follow each other closely
    Dense,       // coded or ciphered: no byte much more frequent than another
    Structured,  // anything else: tables, headers, raw sensor data
};

// For showing, in words.
std::string_view toWords(BlockKind kind);

// Needs some hundred bytes to tell anything; best are a cluster or 4096.
BlockKind kindOfBlock(Bytes block);

}  // namespace dreskel
