// Settings of the user, not of a project: how files of a source are read.
#pragma once

#include <QSettings>

namespace bathmos::app {

inline QSettings remembered() {
    return {QSettings::IniFormat, QSettings::UserScope, QStringLiteral("bathmos"), QStringLiteral("bathmos")};
}

/// Key of a source within a group, safe for an ini file.
inline QString remembered_key(const QString& group, const std::string& source) {
    return group + QLatin1Char('/') +
           QString::fromLatin1(QByteArray::fromStdString(source).toBase64(QByteArray::Base64UrlEncoding |
                                                                          QByteArray::OmitTrailingEquals));
}

} // namespace bathmos::app
