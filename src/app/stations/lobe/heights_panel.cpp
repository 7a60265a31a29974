#include "app/stations/lobe/heights_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/lobe/lobe_events.h"

#include <QHeaderView>
#include <QLabel>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

constexpr const char* kCard = "advertised_crank_deg";
constexpr const char* kCardAt = "advertised_at_mm";

std::string above_zero(double value) {
    return value >= 0 ? std::string() : "give a number above 0, or 0 for not stated";
}

} // namespace

HeightsPanel::HeightsPanel(Context context, LobeSet& set, QWidget* parent)
    : QWidget(parent), context_(context), set_(set) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 0);
    auto* line = new QHBoxLayout;
    const auto field = [&](Quantity quantity, const QString& key, const QString& label, const QString& help) {
        auto* out = new NumberField(context_.units, quantity, key, label, help, above_zero);
        out->set_compact();
        line->addWidget(out->name());
        line->addWidget(out);
        return out;
    };
    height_ = field(Quantity::Length, QStringLiteral("heights_own"), tr("Own height"),
                    tr("Any other height, beside those in common use."));
    card_ = field(Quantity::Angle, QStringLiteral("heights_card"), tr("Card of the chosen lobe"),
                  tr("Duration that the maker's card advertises, crank degrees; 0: none."));
    card_at_ = field(Quantity::Length, QStringLiteral("heights_card_at"), tr("at a cam lift of"),
                     tr("Height that it was taken at; 0: the card does not say."));
    line->addStretch();
    layout->addLayout(line);
    words_ = new QLabel;
    words_->setObjectName(QStringLiteral("heights_words"));
    words_->setWordWrap(true);
    layout->addWidget(words_);
    table_ = new NumberTable(QStringLiteral("heights_table"));
    table_->setAccessibleName(tr("Durations of the shown lobes at each height"));
    layout->addWidget(table_, 1);
    refresh_ = new Refresher(this, kPage_ms, [this] { refresh(); });
    const auto ask = [this] { refresh_->ask(); };
    connect(&set_, &LobeSet::changed, this, ask);
    connect(&set_, &LobeSet::chosen_changed, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    connect(&context_.document, &Document::changed, this, ask);
    connect(height_, &NumberField::edited, this, [this](double si) {
        own_height_m_ = si;
        refresh_->ask();
    });
    const auto stated = [](double si) { return si > 0 ? std::optional(si) : std::nullopt; };
    connect(card_, &NumberField::edited, this,
            [this, stated](double si) { change_fact(QLatin1String(kCard), stated(si)); });
    connect(card_at_, &NumberField::edited, this,
            [this, stated](double si) { change_fact(QLatin1String(kCardAt), stated(si)); });
    ask();
}

void HeightsPanel::change_fact(const QString& key, std::optional<double> value) {
    const LoadedLobe* lobe = set_.chosen();
    if (!lobe || lobe->from != LoadedLobe::From::Shelf)
        return;
    Part part = context_.document.project().parts.at(lobe->id);
    if (value)
        part.facts.numbers[key.toStdString()] = *value;
    else
        part.facts.numbers.erase(key.toStdString());
    context_.document.set_part(lobe->id, part);
}

void HeightsPanel::refresh() {
    const LoadedLobe* chosen = set_.chosen();
    const bool on_shelf = chosen && chosen->from == LoadedLobe::From::Shelf;
    height_->show_value(own_height_m_);
    card_->show_value(chosen ? chosen->facts.number(kCard).value_or(0) : 0);
    card_at_->show_value(chosen ? chosen->facts.number(kCardAt).value_or(0) : 0);
    card_->setEnabled(on_shelf);
    card_at_->setEnabled(on_shelf);
    const std::vector<const LoadedLobe*> lobes = set_.shown();
    QStringList headings = {tr("crank degrees, opening … closing from the nose")};
    for (const LoadedLobe* lobe : lobes)
        headings.push_back(lobe->name);
    table_->setRowCount(0);
    table_->set_headings(headings);
    for (const bool at_valve : {false, true}) {
        add_row(at_valve ? tr("AT THE VALVE, through ratio and lash") : tr("AT THE LIFTER"), {});
        add_ladder(lobes, at_valve);
    }
    add_card_rows(lobes);
    table_->resizeColumnsToContents();
}

void HeightsPanel::add_ladder(const std::vector<const LoadedLobe*>& lobes, bool at_valve) {
    std::vector<std::optional<LobeMotion>> motions;
    for (const LoadedLobe* lobe : lobes)
        motions.push_back(set_.motion(*lobe, at_valve));
    std::vector<double> heights = usual_check_heights_m();
    if (own_height_m_ > 0)
        heights.push_back(own_height_m_);
    std::sort(heights.begin(), heights.end());
    const QString none = QStringLiteral("–");
    for (const double height : heights) {
        QStringList cells;
        for (const auto& motion : motions) {
            const auto c =
                motion ? crossings_at([&](double theta) { return motion->at(theta); }, height) : std::nullopt;
            cells.push_back(c ? tr("%1   (%2 … %3)")
                                    .arg(fixed(c->duration_crank_deg(), 1))
                                    .arg(fixed(2 * degrees(c->opening_rad), 1))
                                    .arg(fixed(2 * degrees(c->closing_rad), 1))
                              : none);
        }
        add_row(tr("Duration at %1%2")
                    .arg(context_.units.text(Quantity::Length, height))
                    .arg(height == own_height_m_ ? tr("  (own)") : QString()),
                cells);
    }
    QStringList lift, area;
    for (const auto& motion : motions) {
        lift.push_back(motion ? context_.units.text(Quantity::Length, motion->lift_m()) : none);
        double sum = 0;
        const LobeSamples samples = motion ? samples_of(*motion, 1440, false) : LobeSamples{};
        for (const double value : samples.value[0])
            sum += value * 0.5; // crank degrees a sample
        area.push_back(tr("%1 %2 °")
                           .arg(fixed(context_.units.value(Quantity::Length, sum), 1))
                           .arg(context_.units.unit_name(Quantity::Length)));
    }
    add_row(at_valve ? tr("Valve lift, rigid") : tr("Lobe lift"), lift);
    add_row(tr("Area under lift, over crank degrees"), area);
}

void HeightsPanel::add_card_rows(const std::vector<const LoadedLobe*>& lobes) {
    QStringList cards, heights, words;
    for (std::size_t i = 0; i < lobes.size(); ++i) {
        const auto card = lobes[i]->facts.number(kCard), at = lobes[i]->facts.number(kCardAt);
        if (!card) {
            cards.push_back(QStringLiteral("–"));
            heights.push_back(QStringLiteral("–"));
            continue;
        }
        const auto motion = [&](double theta) { return lobes[i]->curve->at(theta); };
        const auto height = height_of_duration(motion, degrees(*card));
        const QString found = height ? context_.units.text(Quantity::Length, *height) : tr("nowhere");
        cards.push_back(
            at ? tr("%1 at %2").arg(fixed(degrees(*card), 0)).arg(context_.units.text(Quantity::Length, *at))
               : tr("△ %1, height not stated").arg(fixed(degrees(*card), 0)));
        heights.push_back(found);
        if (!at)
            words.push_back(tr("△ %1: %2° is advertised without a height, so it cannot be compared with any "
                               "other card. This lobe has that duration at %3.")
                                .arg(lobes[i]->name)
                                .arg(fixed(degrees(*card), 0))
                                .arg(found));
    }
    add_row(tr("Advertised on its card"), cards);
    add_row(tr("The lobe has that duration at"), heights);
    words_->setText(words.join(QLatin1Char('\n')));
    words_->setVisible(!words.isEmpty());
}

void HeightsPanel::add_row(const QString& what, const QStringList& cells) {
    const int row = table_->rowCount();
    table_->setRowCount(row + 1);
    table_->set_cell(row, 0, what, false);
    for (int i = 0; i < cells.size(); ++i)
        table_->set_cell(row, i + 1, cells[i]);
}

} // namespace bathmos::app
