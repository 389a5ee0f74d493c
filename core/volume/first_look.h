// The first answer on a card, within seconds: what state it is in, from a few reads. The sentence comes with
// the facts it rests on.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "volume/survey.h"

namespace dreskel {

enum class CardState {
    Failing,           // errors or stalls in the sample
    WrongSize,         // the same content repeats: it is smaller than it says
    Blank,             // one and the same byte wherever it was looked at
    DamagedStart,      // no volume begins here that can be used; remains of one do
    FreshlyFormatted,  // a volume without files
    Present,           // a volume with files
    NoVolume,          // data, and nothing that says how it was laid out
};
std::string_view toWord(CardState state);

struct FirstLook {
    CardState state = CardState::NoVolume;
    std::string sentence;
    std::vector<std::string> facts;
    Survey survey;
    std::size_t present = 0, deleted = 0;  // files in the folders that can be reached
    bool countComplete = true;
    double filledBehind = 0;  // of the places that no present file uses, the share that holds data; 0 to 1
    std::size_t places = 0;   // looked at
};

// Takes at most about `seconds`, even when a read does not come back: it is then left to itself, in a thread
// that keeps the source alive, and the card is called failing.
FirstLook lookAtFirst(const std::shared_ptr<Source>& source, double seconds);

}  // namespace dreskel
