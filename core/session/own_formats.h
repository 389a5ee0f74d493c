// Formats of the technician's own, as the interfaces use them: kept, learnt, tried.
#pragma once

#include <string>
#include <vector>

#include "formats/own/learn.h"
#include "formats/own/own_file.h"
#include "scan/own_trial.h"

namespace dreskel {

// Puts the formats of these files to use, in place of those before. Nothing changes when one is refused.
Status useOwnFormats(const std::vector<std::string>& paths);

// Works out what the samples have in common.
Result<own::Definition> learnFrom(const std::vector<std::string>& samples, const std::string& name,
                                  Kind kind);

// Adds it to the user's own file, or takes the place of one of the same name there, and puts it to use.
Status keepOwnFormat(const own::Definition& definition);
Status dropOwnFormat(const std::string& name);

// What a trial showed, in a sentence or two.
std::string wordsOf(const OwnTrial& trial);

}  // namespace dreskel
