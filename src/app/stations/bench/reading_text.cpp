#include "app/stations/bench/reading_text.h"

#include "app/widgets/number_field.h"

#include <QRegularExpression>
#include <QStringList>

namespace bathmos::app {

QString readings_text(const DisplayUnits& units, Quantity quantity, const std::vector<double>& readings_si) {
    QStringList out;
    for (const double one : readings_si)
        out << units.typed(quantity, one);
    return out.join(QStringLiteral("  "));
}

std::optional<std::vector<double>> parse_readings(const DisplayUnits& units, Quantity quantity,
                                                  const QString& text) {
    static const QRegularExpression gap(QStringLiteral("[\\s;]+"));
    std::vector<double> out;
    for (const QString& word : text.split(gap, Qt::SkipEmptyParts)) {
        const auto value = parse_number(word);
        if (!value)
            return std::nullopt;
        out.push_back(*value * units.unit(quantity).to_si);
    }
    return out;
}

} // namespace bathmos::app
