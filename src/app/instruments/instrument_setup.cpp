#include "app/instruments/instrument_setup.h"

#include "app/text/words.h"
#include "app/widgets/remembered.h"

#include <QCoreApplication>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>

namespace bathmos::app {

namespace {

constexpr char kGroup[] = "instruments";

QString said(const char* text) {
    return QCoreApplication::translate("InstrumentSetup", text);
}

QJsonObject json_of(const InstrumentSetup& setup) {
    QJsonArray channels;
    for (const instrument::Channel& one : setup.channels) {
        QJsonArray feeds;
        for (const std::string& key : one.feeds)
            feeds.append(words(key));
        channels.append(QJsonObject{{"label", phrase(one.label)},
                                    {"quantity", static_cast<int>(one.quantity)},
                                    {"before", words(one.before)},
                                    {"unit", words(one.unit)},
                                    {"reversed", one.reversed},
                                    {"feeds", feeds}});
    }
    return {{"name", setup.name},   {"network", setup.network},
            {"port", setup.port},   {"baud", setup.baud},
            {"host", setup.host},   {"host_port", setup.host_port},
            {"channels", channels}, {"on_its_button", setup.on_its_button},
            {"asks", setup.asks},   {"after_reading", setup.after_reading}};
}

InstrumentSetup setup_of(const QJsonObject& json) {
    InstrumentSetup out;
    out.name = json["name"].toString();
    out.network = json["network"].toBool();
    out.port = json["port"].toString();
    out.baud = json["baud"].toInt(9600);
    out.host = json["host"].toString();
    out.host_port = static_cast<quint16>(json["host_port"].toInt());
    out.on_its_button = json["on_its_button"].toBool();
    out.asks = json["asks"].toString();
    out.after_reading = json["after_reading"].toString();
    for (const QJsonValue& one : json["channels"].toArray()) {
        const int quantity = one["quantity"].toInt();
        if (quantity < 0 || quantity > static_cast<int>(Quantity::Count))
            continue;
        instrument::Channel channel{one["label"].toString().toStdString(),
                                    static_cast<Quantity>(quantity),
                                    one["before"].toString().toStdString(),
                                    one["unit"].toString().toStdString(),
                                    one["reversed"].toBool(),
                                    {}};
        for (const QJsonValue& key : one["feeds"].toArray())
            channel.feeds.push_back(key.toString().toStdString());
        out.channels.push_back(std::move(channel));
    }
    return out;
}

} // namespace

QString place_of(const InstrumentSetup& setup) {
    return setup.network ? QStringLiteral("%1:%2").arg(setup.host).arg(setup.host_port)
                         : said("serial %1").arg(setup.port);
}

QString problem_of(const InstrumentSetup& setup) {
    if (setup.name.trimmed().isEmpty())
        return said("Give it a name: it is remembered by that.");
    if (setup.network && (setup.host.trimmed().isEmpty() || setup.host_port == 0))
        return said("Name the host and its port.");
    if (!setup.network && setup.port.trimmed().isEmpty())
        return said("Choose a serial port.");
    if (setup.channels.empty())
        return said("Say what a line holds: at least one number.");
    return {};
}

QStringList remembered_instruments() {
    QSettings settings = remembered();
    settings.beginGroup(QLatin1String(kGroup));
    QStringList out;
    for (const QString& key : settings.childKeys())
        out << QString::fromUtf8(QByteArray::fromHex(key.toLatin1()));
    out.sort();
    return out;
}

// Names are any text, keys of the settings are not.
static QString key_of(const QString& name) {
    return QStringLiteral("%1/%2").arg(QLatin1String(kGroup), QString::fromLatin1(name.toUtf8().toHex()));
}

std::optional<InstrumentSetup> remembered_instrument(const QString& name) {
    const QByteArray text = remembered().value(key_of(name)).toByteArray();
    const QJsonDocument json = QJsonDocument::fromJson(text);
    return json.isObject() ? std::optional(setup_of(json.object())) : std::nullopt;
}

void remember_instrument(const InstrumentSetup& setup) {
    remembered().setValue(key_of(setup.name), QJsonDocument(json_of(setup)).toJson(QJsonDocument::Compact));
}

void forget_instrument(const QString& name) {
    remembered().remove(key_of(name));
}

} // namespace bathmos::app
