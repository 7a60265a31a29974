// Text of the core and numbers as text of the window, and paths of the window as paths of files.
#pragma once

#include <QFile>
#include <QLocale>
#include <QString>
#include <cmath>
#include <optional>
#include <string>
#include <string_view>

namespace bathmos::app {

inline QString words(std::string_view text) {
    return QString::fromUtf8(text.data(), static_cast<qsizetype>(text.size()));
}

/// A phrase of the core (a label, a finding, a reason, an error), in the language of the window and with its
/// decimal sign; what people have written is shown by words() and left as it is.
QString phrase(std::string_view text);
/// The same of a text of a report, where a word may stand alone: "of" heads a column.
QString paper_phrase(std::string_view text);
/// In which language the window speaks: "en", "de".
QString language_spoken();
/// Within a sentence: without capitals in languages that write names of things small.
QString in_sentence(const QString& text);
inline QString lower_phrase(std::string_view text) {
    return in_sentence(phrase(text));
}

/// A number as text of the core, with the decimal sign of the window.
inline QString with_sign(QString number) {
    return number.replace(QLatin1Char('.'), QLocale().decimalPoint());
}
/// A number with so many decimals, with the decimal sign of the window.
inline QString fixed(double value, int decimals) {
    return with_sign(QString::number(value, 'f', decimals));
}
/// A number with so many digits at most, with the decimal sign of the window.
inline QString digits(double value, int most) {
    return with_sign(QString::number(value, 'g', most));
}

/// Text to number: decimal point or comma, whatever the window shows. Empty if it is no number.
inline std::optional<double> parse_number(const QString& text) {
    QString plain = text.trimmed();
    plain.replace(QLatin1Char(','), QLatin1Char('.'));
    bool ok = false;
    const double value = plain.toDouble(&ok);
    return ok && std::isfinite(value) ? std::optional(value) : std::nullopt;
}

/// Bytes of a path as the file system wants them.
inline std::string native(const QString& path) {
    return QFile::encodeName(path).toStdString();
}

} // namespace bathmos::app
