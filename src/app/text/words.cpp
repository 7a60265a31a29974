#include "app/text/words.h"

#include <QCoreApplication>
#include <QRegularExpression>

namespace bathmos::app {

QString phrase(std::string_view text) {
    const QString sign = QLocale().decimalPoint();
    QString out = QCoreApplication::translate("core", std::string(text).c_str());
    if (sign == QStringLiteral("."))
        return out;
    // A number that stands alone, not a piece of a file's name or of a version.
    static const QRegularExpression number(
        QStringLiteral("(?<![\\w.])([-+±]?\\d*)\\.(\\d+)(?![\\w.]*\\.\\w|\\w)"));
    return out.replace(number, QStringLiteral("\\1%1\\2").arg(sign));
}

QString paper_phrase(std::string_view text) {
    const std::string source(text);
    const QString alone = QCoreApplication::translate("paper", source.c_str());
    return alone == QString::fromStdString(source) ? phrase(text) : alone;
}

QString language_spoken() {
    return QCoreApplication::translate("core", "en"); // a catalogue has the code of its own language there
}

QString in_sentence(const QString& text) {
    return QCoreApplication::translate("core", "names are written small") == QStringLiteral("no")
               ? text
               : text.toLower();
}

} // namespace bathmos::app
