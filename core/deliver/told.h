// What the core says of files, cards and drives, in the languages that reports and windows speak. The core
// itself speaks English; here its sentences are looked up with %1, %2 … for what changes in them.
#pragma once

#include <span>
#include <string>
#include <string_view>

#include "deliver/phrases.h"

namespace dreskel {

// The sentence in that language; as it is where nobody has translated it. Numbers, names of filesystems and
// what is in quotation marks are taken over. One that is made of others is taken apart at its stops, colons,
// semicolons and commas.
std::string told(std::string_view sentence, Language language);

struct Told {
    std::string_view form, words;
};
std::span<const Told> germanForms();

}  // namespace dreskel
