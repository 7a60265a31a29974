#include "app/settings/settings.h"

namespace bathmos::app {

namespace {

// Words of the file, in the order of the enumerations.
const QStringList kLooks = {QStringLiteral("desktop"), QStringLiteral("light"), QStringLiteral("dark")};
const QStringList kSigns = {QStringLiteral("language"), QStringLiteral("point"), QStringLiteral("comma")};
const QStringList kSystems = {QStringLiteral("metric"), QStringLiteral("inch")};
const QStringList kColours = {QStringLiteral("usual"), QStringLiteral("apart")};

template <class Choice>
Choice chosen(const QSettings& from, const QString& key, const QStringList& words, Choice usual) {
    const qsizetype at = words.indexOf(from.value(key).toString());
    return at < 0 ? usual : static_cast<Choice>(at);
}

QString unit_key(const char* quantity) {
    return QStringLiteral("units/") + QLatin1String(quantity);
}

} // namespace

const QVector<int>& text_sizes() {
    static const QVector<int> sizes = {100, 110, 125, 150, 175, 200};
    return sizes;
}

const QVector<SettingQuantity>& setting_quantities() {
    static const QVector<SettingQuantity> all = {
        {Quantity::Length, "length"},
        {Quantity::FineLength, "fine_length"},
        {Quantity::Force, "force"},
        {Quantity::Stiffness, "stiffness"},
        {Quantity::Pressure, "pressure"},
        {Quantity::Stress, "stress"},
        {Quantity::Velocity, "velocity"},
        {Quantity::Power, "power"},
        {Quantity::Torque, "torque"},
        {Quantity::Torsion, "torsion"},
        {Quantity::Inertia, "inertia"},
        {Quantity::Modulus, "modulus"},
        {Quantity::Density, "density"},
        {Quantity::Viscous, "viscous"},
        {Quantity::Area, "area"},
        {Quantity::Volume, "volume"},
        {Quantity::Leakage, "leakage"},
        {Quantity::LiftPerDegree, "lift_per_degree"},
        {Quantity::LiftPerDegree2, "lift_per_degree2"},
        {Quantity::LiftPerDegree3, "lift_per_degree3"},
        {Quantity::ContactDamping, "contact_damping"},
    };
    return all;
}

Settings read_settings(const QSettings& from) {
    Settings out;
    const QString language = from.value(QStringLiteral("window/language")).toString();
    if (language == QStringLiteral("en") || language == QStringLiteral("de"))
        out.language = language;
    out.look = chosen(from, QStringLiteral("window/look"), kLooks, out.look);
    out.colours = chosen(from, QStringLiteral("window/colours"), kColours, out.colours);
    const int percent = from.value(QStringLiteral("window/text_percent")).toInt();
    if (text_sizes().contains(percent))
        out.text_percent = percent;
    out.decimal = chosen(from, QStringLiteral("window/decimal_sign"), kSigns, out.decimal);
    out.units = chosen(from, QStringLiteral("window/units"), kSystems, UnitSystem::Metric);
    for (const SettingQuantity& one : setting_quantities())
        out.units.set(one.quantity, chosen(from, unit_key(one.key), kSystems, out.units.system()));
    const QString keys = QStringLiteral("keys/");
    for (const QString& key : from.allKeys())
        if (key.startsWith(keys))
            out.keys.insert(key.mid(keys.size()),
                            QKeySequence::fromString(from.value(key).toString(), QKeySequence::PortableText));
    return out;
}

void write_settings(const Settings& settings, QSettings& to) {
    to.setValue(QStringLiteral("window/language"), settings.language);
    if (settings.look == LookChoice::OfDesktop)
        to.remove(QStringLiteral("window/look"));
    else
        to.setValue(QStringLiteral("window/look"), kLooks[static_cast<int>(settings.look)]);
    to.setValue(QStringLiteral("window/colours"), kColours[static_cast<int>(settings.colours)]);
    to.setValue(QStringLiteral("window/text_percent"), settings.text_percent);
    to.setValue(QStringLiteral("window/decimal_sign"), kSigns[static_cast<int>(settings.decimal)]);
    to.setValue(QStringLiteral("window/units"), kSystems[static_cast<int>(settings.units.system())]);
    for (const SettingQuantity& one : setting_quantities())
        if (const UnitSystem shown = settings.units.of(one.quantity); shown != settings.units.system())
            to.setValue(unit_key(one.key), kSystems[static_cast<int>(shown)]);
        else
            to.remove(unit_key(one.key));
    to.remove(QStringLiteral("keys"));
    for (const auto& [action, keys] : settings.keys.toStdMap())
        to.setValue(QStringLiteral("keys/") + action, keys.toString(QKeySequence::PortableText));
}

QString language_of(const Settings& settings, const QLocale& desktop) {
    if (!settings.language.isEmpty())
        return settings.language;
    return desktop.language() == QLocale::German ? QStringLiteral("de") : QStringLiteral("en");
}

QLocale locale_of(const Settings& settings, const QLocale& desktop) {
    const bool comma = settings.decimal == DecimalSign::OfLanguage
                           ? language_of(settings, desktop) == QStringLiteral("de")
                           : settings.decimal == DecimalSign::Comma;
    QLocale out(comma ? QLocale::German : QLocale::C);
    out.setNumberOptions(QLocale::OmitGroupSeparator);
    return out;
}

} // namespace bathmos::app
