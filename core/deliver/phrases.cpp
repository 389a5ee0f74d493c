#include "deliver/phrases.h"

#include <array>
#include <cstdlib>

namespace dreskel {
namespace {

const Phrases kEnglish{
    .filesFromACard = "Files from a memory card",
    .toChooseFrom = "Pictures to choose from",
    .card = "Card",
    .copiedFirst = "%1, copied first",
    .serial = "Serial number",
    .size = "Size",
    .unread = "Could not be read",
    .nothingUnread = "nothing: all of it was read",
    .date = "Date of this report",
    .found = "Found",
    .photos = "photos",
    .clips = "clips",
    .recordings = "recordings",
    .sidecars = "sidecars",
    .otherFiles = "other files",
    .conditionsMean =
        "Whole: every byte was decoded without an error. Partial: a part of it is there. Broken: "
        "nothing of it decodes.",
    .whole = "whole",
    .partial = "partial",
    .broken = "broken",
    .unchecked = "unchecked",
    .partialBy = "partial, %1 %",
    .youAskedFor = "You asked for",
    .notFound = "not found",
    .foundPlain = "found",
    .foundAs = "found: numbers %1",
    .delivered = "Delivered",
    .askedFor = "Asked for",
    .saved = "Saved",
    .readBack = "Read back and found the same",
    .notSaved = "Not saved",
    .notSavedAndWhy = "Not saved, and why",
    .versions = "Versions that open",
    .versionsMean = "Beside files of which a part is lost; made from what is left.",
    .notWhole = "Not whole",
    .eachFile = "Each file",
    .nextCard = "For the next card",
    .page = "Page %1",
    .numbers = "numbers %1 to %2",
    .undated = "undated",
    .sheetOf = "%1 of %2",
    .months = {"January", "February", "March", "April", "May", "June", "July", "August", "September",
               "October", "November", "December"},
    .dateForm = "%1 %2 %3, %4",
    .advice = {"Format a card in the camera that will use it, not in a computer.",
               "Switch the camera off, or eject the card, before it is pulled out.",
               "Use a card in one camera only.",
               "A card that has failed once is not to be trusted again: retire it.",
               "Keep two copies of every picture, in two places, before the card is used again."},
};

const Phrases kGerman{
    .filesFromACard = "Dateien von einer Speicherkarte",
    .toChooseFrom = "Bilder zur Auswahl",
    .card = "Karte",
    .copiedFirst = "%1, zuerst kopiert",
    .serial = "Seriennummer",
    .size = "Größe",
    .unread = "Nicht lesbar",
    .nothingUnread = "nichts: alles wurde gelesen",
    .date = "Datum dieses Berichts",
    .found = "Gefunden",
    .photos = "Fotos",
    .clips = "Filme",
    .recordings = "Tonaufnahmen",
    .sidecars = "Begleitdateien",
    .otherFiles = "andere Dateien",
    .conditionsMean =
        "Ganz: jedes Byte wurde fehlerfrei decodiert. Teilweise: ein Teil ist da. Defekt: nichts davon "
        "lässt sich decodieren.",
    .whole = "ganz",
    .partial = "teilweise",
    .broken = "defekt",
    .unchecked = "ungeprüft",
    .partialBy = "teilweise, %1 %",
    .youAskedFor = "Sie suchten",
    .notFound = "nicht gefunden",
    .foundPlain = "gefunden",
    .foundAs = "gefunden: Nummern %1",
    .delivered = "Übergeben",
    .askedFor = "Verlangt",
    .saved = "Gespeichert",
    .readBack = "Zurückgelesen und gleich",
    .notSaved = "Nicht gespeichert",
    .notSavedAndWhy = "Nicht gespeichert, und warum",
    .versions = "Fassungen, die sich öffnen lassen",
    .versionsMean = "Neben Dateien, von denen ein Teil fehlt; aus dem gemacht, was da ist.",
    .notWhole = "Nicht ganz",
    .eachFile = "Jede Datei",
    .nextCard = "Für die nächste Karte",
    .page = "Seite %1",
    .numbers = "Nummern %1 bis %2",
    .undated = "ohne Datum",
    .sheetOf = "%1 von %2",
    .months = {"Januar", "Februar", "März", "April", "Mai", "Juni", "Juli", "August", "September", "Oktober",
               "November", "Dezember"},
    .dateForm = "%1. %2 %3, %4 Uhr",
    .advice =
        {"Formatieren Sie eine Karte in der Kamera, die sie benutzt, nicht im Computer.",
         "Schalten Sie die Kamera aus, oder werfen Sie die Karte aus, bevor Sie sie herausziehen.",
         "Benutzen Sie eine Karte nur in einer Kamera.",
         "Einer Karte, die einmal versagt hat, ist nicht mehr zu trauen: benutzen Sie sie nicht weiter.",
         "Bewahren Sie jedes Bild zweimal auf, an zwei Orten, bevor Sie die Karte wieder benutzen."},
};

}  // namespace

std::optional<Language> languageFromWord(std::string_view word) {
    const auto front = word.substr(0, word.find_first_of("_.@-"));
    if (front == "en" || front == "C" || front == "POSIX") return Language::English;
    if (front == "de") return Language::German;
    return std::nullopt;
}

std::string_view toWord(Language language) {
    return language == Language::German ? "de" : "en";
}

Language usualLanguage() {
    for (const auto* name : {"LC_ALL", "LC_MESSAGES", "LANG"}) {
        const auto* value = std::getenv(name);
        if (value != nullptr && *value != '\0') return languageFromWord(value).value_or(Language::English);
    }
    return Language::English;
}

const Phrases& phrasesIn(Language language) {
    return language == Language::German ? kGerman : kEnglish;
}

std::string filled(std::string form, const std::vector<std::string>& values) {
    std::string out;
    for (std::size_t at = 0; at < form.size(); ++at) {
        const auto digit = form[at] == '%' && at + 1 < form.size() ? form[at + 1] - '1' : -1;
        if (digit >= 0 && static_cast<std::size_t>(digit) < values.size()) {
            out += values[static_cast<std::size_t>(digit)];
            ++at;
        } else {
            out += form[at];
        }
    }
    return out;
}

}  // namespace dreskel
