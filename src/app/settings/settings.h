// What the user has chosen for all projects: words, looks, units, keys. Limits belong to a project and are
// not here.
#pragma once

#include "app/theme/theme.h"
#include "core/units/units.h"

#include <QKeySequence>
#include <QLocale>
#include <QMap>
#include <QSettings>
#include <QString>
#include <QVector>

namespace bathmos::app {

enum class LookChoice { OfDesktop, Light, Dark };
enum class DecimalSign { OfLanguage, Point, Comma };

struct Settings {
    QString language; ///< "en", "de"; empty: the desktop's where it is spoken here, else English
    LookChoice look = LookChoice::OfDesktop;
    Colours colours = Colours::Usual;
    int text_percent = 100; ///< one of text_sizes()
    DecimalSign decimal = DecimalSign::OfLanguage;
    UnitChoice units;
    QMap<QString, QKeySequence> keys; ///< own ones by action, where not the usual ones

    bool operator==(const Settings&) const = default;
};

/// Sizes of text that are offered, in percent of the usual.
const QVector<int>& text_sizes();

/// Quantities that have two units, with their keys in files of settings.
struct SettingQuantity {
    Quantity quantity;
    const char* key;
};
const QVector<SettingQuantity>& setting_quantities();

/// What was kept; what is missing or cannot be is as usual.
Settings read_settings(const QSettings& from);
void write_settings(const Settings& settings, QSettings& to);

/// The language in which the window speaks: that chosen, or the desktop's, "en" or "de".
QString language_of(const Settings& settings, const QLocale& desktop);
/// How numbers are written in the window: with the sign chosen, never with separators between thousands.
QLocale locale_of(const Settings& settings, const QLocale& desktop);

} // namespace bathmos::app
