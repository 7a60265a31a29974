#include "app/language/language.h"

#include "app/text/catalogue.h"

#include <QCoreApplication>
#include <QFile>
#include <QLibraryInfo>

namespace bathmos::app {

QString speak(QCoreApplication& application, const Settings& settings, const QLocale& desktop) {
    QLocale::setDefault(locale_of(settings, desktop));
    const QString language = language_of(settings, desktop);
    QFile file(QStringLiteral(":/language/%1.json").arg(language));
    if (!file.open(QIODevice::ReadOnly))
        return language; // the language that the texts are written in
    auto* toolkit = new QTranslator(&application);
    if (toolkit->load(QStringLiteral("qtbase_") + language,
                      QLibraryInfo::path(QLibraryInfo::TranslationsPath)))
        QCoreApplication::installTranslator(toolkit);
    QCoreApplication::installTranslator(new Catalogue(file.readAll(), &application));
    return language;
}

} // namespace bathmos::app
