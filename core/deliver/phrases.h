// What the report says, in the languages it can be written in.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace dreskel {

enum class Language { English, German };

// "en", "de"; of a locale's name ("de_AT.UTF-8") the front.
std::optional<Language> languageFromWord(std::string_view word);
std::string_view toWord(Language language);
// That of the person who runs the program, by LC_ALL, LC_MESSAGES and LANG; English where it is another.
Language usualLanguage();

struct Phrases {
    const char *filesFromACard, *toChooseFrom;
    const char *card, *copiedFirst, *serial, *size, *unread, *nothingUnread, *date;
    const char *found, *photos, *clips, *recordings, *sidecars, *otherFiles, *conditionsMean;
    const char *whole, *partial, *broken, *unchecked, *partialBy;  // %: the share
    const char *youAskedFor, *notFound, *foundPlain, *foundAs;     // %: numbers
    const char *delivered, *askedFor, *saved, *readBack, *notSaved, *notSavedAndWhy;
    const char *versions, *versionsMean, *notWhole, *eachFile, *nextCard;
    const char *page, *numbers;  // %1, %2
    const char *undated, *sheetOf;
    const char* months[12];
    const char* dateForm;  // %d, %m, %y, %t
    std::vector<std::string> advice;
};

const Phrases& phrasesIn(Language language);

// `form` with %1, %2 … replaced.
std::string filled(std::string form, const std::vector<std::string>& values);

}  // namespace dreskel
