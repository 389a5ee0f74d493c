// What the program says, in the language of the person who reads it. Every text of the interface goes through
// Text::tr(), where lupdate finds it; desktop/translations holds what it is in other languages, and the
// numbers of English ("%n file(s)").
#pragma once

#include <QCoreApplication>
#include <QString>
#include <QVector>
#include <string>

class QLocale;

namespace dreskel {

struct Error;

class Text {
    Q_DECLARE_TR_FUNCTIONS(dreskel::Text)

  public:
    // A sentence of the core; see deliver/told.h.
    static QString ofCore(const std::string& sentence);
    static QString ofCore(const Error& error);
    // Dates and names of days are in the language of the interface, whatever the computer's other settings.
    static const QLocale& locale();
};

namespace text {

struct Offered {
    QString word, name;  // "de", "Deutsch"
};
// Languages there is a translation for, in their own names.
QVector<Offered> languages();
// What was chosen, or nothing for the computer's own.
QString chosen();
void choose(const QString& word);
// Puts the chosen language, or the computer's, in force for all windows made from now on.
void speak();

}  // namespace text
}  // namespace dreskel
