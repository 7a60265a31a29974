#include "app/stations/lobe/events_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"

#include <QComboBox>
#include <QGridLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSlider>
#include <QSplitter>
#include <QVBoxLayout>
#include <cmath>

namespace bathmos::app {

namespace {

constexpr int kMoveSteps = 2, kMost_deg = 20;
enum StripCurve { IntakeBefore, ExhaustBefore, Intake, Exhaust };

std::string centreline_complaint(double degrees) {
    return degrees >= 60 && degrees <= 160 ? std::string() : "a centre line lies 60 to 160 degrees off";
}

} // namespace

EventsPanel::EventsPanel(Context context, LobeSet& set, QWidget* parent)
    : QWidget(parent), context_(context), set_(set),
      refresh_(new Refresher(this, kPage_ms, [this] { refresh(); })) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 0);
    layout->setSpacing(4);
    layout->addWidget(make_choices());
    strip_ = new Plot(context_.theme, tr("One cycle of the crank"));
    strip_->add_curve(tr("intake as installed"), Role::Faint, Stroke::Dashed);
    strip_->add_curve(tr("exhaust as installed"), Role::Faint, Stroke::Dashed);
    strip_->add_curve(tr("intake"), Role::Ink);
    strip_->add_curve(tr("exhaust"), Role::Third);
    strip_->set_x_range(-360, 360);
    strip_->set_cursor_step(0.5);
    connect(strip_, &Plot::cursor_moved, this,
            [this](double deg) { context_.cursors.set_crank(std::remainder(deg - nose_deg_, 720)); });
    connect(&context_.cursors, &Cursors::crank_changed, this, &EventsPanel::follow_cursor);
    layout->addWidget(strip_, 4);
    auto* split = new QSplitter(Qt::Horizontal);
    table_ = new NumberTable(QStringLiteral("events_table"));
    table_->setAccessibleName(tr("Events of both valves"));
    split->addWidget(table_);
    reading_ = new QLabel;
    reading_->setObjectName(QStringLiteral("events_reading"));
    reading_->setWordWrap(true);
    reading_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    reading_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    split->addWidget(reading_);
    split->setSizes({560, 420});
    layout->addWidget(split, 5);
    const auto ask = [this] { refresh_->ask(); };
    connect(&set_, &LobeSet::changed, this, [this] {
        fill_lobes();
        take_centrelines_of_builds();
        refresh_->ask();
    });
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    fill_lobes();
    take_centrelines_of_builds();
    ask();
}

QWidget* EventsPanel::make_choices() {
    auto* box = new QWidget;
    auto* grid = new QGridLayout(box);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(2);
    const auto ask = [this] { refresh_->ask(); };
    const auto choice = [&](int row, int column, const QString& name, const QString& label) {
        auto* out = new QComboBox;
        out->setObjectName(name);
        out->setAccessibleName(label);
        out->setMinimumContentsLength(13);
        out->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        grid->addWidget(new QLabel(label), row, column);
        grid->addWidget(out, row, column + 1);
        connect(out, &QComboBox::currentIndexChanged, this, ask);
        return out;
    };
    const auto field = [&](int row, int column, Quantity quantity, const QString& key, const QString& label,
                           const QString& help, const NumberField::Complaint& complaint) {
        auto* out = new NumberField(context_.units, quantity, key, label, help, complaint);
        out->set_compact();
        grid->addWidget(out->name(), row, column);
        grid->addWidget(out, row, column + 1);
        return out;
    };
    intake_ = choice(0, 0, QStringLiteral("events_intake"), tr("Intake lobe"));
    exhaust_ = choice(1, 0, QStringLiteral("events_exhaust"), tr("Exhaust lobe"));
    intake_line_ =
        field(0, 2, Quantity::Angle, QStringLiteral("events_intake_line"), tr("nose after dead centre"),
              tr("Intake centre line: crank degrees from the dead centre of overlap to the nose."),
              centreline_complaint);
    exhaust_line_ =
        field(1, 2, Quantity::Angle, QStringLiteral("events_exhaust_line"), tr("nose before dead centre"),
              tr("Exhaust centre line: crank degrees from its nose to the dead centre of overlap."),
              centreline_complaint);
    separation_ = field(0, 4, Quantity::Angle, QStringLiteral("events_separation"), tr("Separation, cam"),
                        tr("Lobe separation: cam degrees between both noses."), centreline_complaint);
    advance_ =
        field(1, 4, Quantity::Angle, QStringLiteral("events_advance"), tr("Advance, crank"),
              tr("Crank degrees that both noses stand earlier than even about dead centre."), [](double deg) {
                  return std::abs(deg) <= 40 ? std::string() : "give -40 to 40 crank degrees";
              });
    side_ = choice(2, 0, QStringLiteral("events_side"), tr("Seen at the"));
    side_->addItems({tr("lifter"), tr("valve")});
    side_->setCurrentIndex(1);
    height_ = field(2, 2, Quantity::Length, QStringLiteral("events_height"), tr("Height"),
                    tr("Lift at which a valve counts as open."),
                    [](double mm) { return mm > 0 && mm < 20 ? std::string() : "give a lift above 0"; });
    grid->setColumnStretch(6, 1);
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel(tr("Move the cam")));
    move_ = new QSlider(Qt::Horizontal);
    move_->setObjectName(QStringLiteral("events_move"));
    move_->setAccessibleName(tr("Move the cam, half crank degrees; right is later"));
    move_->setRange(-kMost_deg * kMoveSteps, kMost_deg * kMoveSteps);
    line->addWidget(move_, 1);
    moved_words_ = new QLabel;
    moved_words_->setObjectName(QStringLiteral("events_moved"));
    line->addWidget(moved_words_);
    keep_ = new QPushButton(tr("Keep as installed"));
    keep_->setObjectName(QStringLiteral("events_keep"));
    keep_->setToolTip(tr("Writes both centre lines, as moved, into the builds that the lobes belong to."));
    line->addSpacing(8);
    line->addWidget(keep_);
    grid->addLayout(line, 2, 4, 1, 3);
    connect(move_, &QSlider::valueChanged, this, ask);
    connect(keep_, &QPushButton::clicked, this, &EventsPanel::keep);
    connect(intake_line_, &NumberField::edited, this, [this](double si) {
        intake_rad_ = si;
        refresh_->ask();
    });
    connect(exhaust_line_, &NumberField::edited, this, [this](double si) {
        exhaust_rad_ = si;
        refresh_->ask();
    });
    connect(height_, &NumberField::edited, this, [this](double si) {
        height_m_ = si;
        refresh_->ask();
    });
    const auto take_place = [this](bool separation, double si) {
        CamTiming timing = timing_of(intake_rad_, exhaust_rad_);
        (separation ? timing.separation_cam_rad : timing.advance_crank_rad) = si;
        std::tie(intake_rad_, exhaust_rad_) = centrelines_of(timing);
        refresh_->ask();
    };
    connect(separation_, &NumberField::edited, this, [=](double si) { take_place(true, si); });
    connect(advance_, &NumberField::edited, this, [=](double si) { take_place(false, si); });
    return box;
}

void EventsPanel::fill_lobes() {
    const Project* project = context_.document.has_train() ? &context_.document.project() : nullptr;
    for (QComboBox* box : {intake_, exhaust_}) {
        const QSignalBlocker quiet(box);
        const QString last = box->currentData().toString();
        const ValveSide side = box == intake_ ? ValveSide::Intake : ValveSide::Exhaust;
        QString suits;
        box->clear();
        for (const LoadedLobe& lobe : set_.lobes()) {
            if (!lobe.curve)
                continue;
            box->addItem(lobe.name, lobe.key);
            if (suits.isEmpty() && lobe.from != LoadedLobe::From::Shelf && project &&
                project->builds.contains(lobe.id) && project->builds.at(lobe.id).side == side)
                suits = lobe.key;
        }
        const int again = box->findData(last), suited = box->findData(suits);
        box->setCurrentIndex(again >= 0 ? again : std::max(suited, 0));
    }
}

// Whenever the builds' own centre lines change, the trial begins with them anew.
void EventsPanel::take_centrelines_of_builds() {
    if (!context_.document.has_train())
        return;
    QString now;
    double intake = 0, exhaust = 0;
    for (const auto& [box, to] : {std::pair{intake_, &intake}, {exhaust_, &exhaust}})
        if (const LoadedLobe* lobe = set_.find(box->currentData().toString());
            lobe && lobe->from != LoadedLobe::From::Shelf) {
            *to = context_.document.project().builds.at(lobe->id).centreline_rad;
            now += QStringLiteral("%1 %2 ").arg(lobe->id).arg(*to);
        }
    if (now == builds_)
        return;
    builds_ = now;
    if (intake > 0)
        intake_rad_ = intake;
    if (exhaust > 0)
        exhaust_rad_ = exhaust;
}

std::optional<PlacedLobe> EventsPanel::placed(const QComboBox* box, double centreline_rad) const {
    const LoadedLobe* lobe = set_.find(box->currentData().toString());
    if (!lobe)
        return std::nullopt;
    auto motion = set_.motion(*lobe, side_->currentIndex() == 1);
    if (!motion)
        return std::nullopt;
    return PlacedLobe{std::move(*motion), centreline_rad};
}

void EventsPanel::refresh() {
    const double moved_rad = radians(move_->value() / double(kMoveSteps));
    const CamTiming timing = timing_of(intake_rad_, exhaust_rad_);
    intake_line_->show_value(intake_rad_);
    exhaust_line_->show_value(exhaust_rad_);
    separation_->show_value(timing.separation_cam_rad);
    advance_->show_value(timing.advance_crank_rad);
    height_->show_value(height_m_);
    moved_words_->setText(move_->value() == 0 ? tr("as installed")
                                              : tr("%1° %2 (crank)")
                                                    .arg(fixed(std::abs(degrees(moved_rad)), 1))
                                                    .arg(moved_rad > 0 ? tr("later") : tr("earlier")));
    const auto intake = placed(intake_, intake_rad_), exhaust = placed(exhaust_, exhaust_rad_);
    keep_->setEnabled(intake && exhaust && context_.document.read_only_why().isEmpty());
    if (!intake || !exhaust) {
        reading_->setText(tr("Choose an intake and an exhaust lobe."));
        table_->setRowCount(0);
        return;
    }
    const Engine* engine = context_.document.engine();
    const Engine known = engine ? *engine : Engine{};
    const PairEvents before = events_of(*intake, *exhaust, height_m_, 0, known);
    const PairEvents after = events_of(*intake, *exhaust, height_m_, moved_rad, known);
    const bool exhaust_in_hand = exhaust_->currentData() == QStringLiteral("hand");
    nose_deg_ = degrees(exhaust_in_hand ? crank_of(*exhaust, false, 0, moved_rad)
                                        : crank_of(*intake, true, 0, moved_rad));
    draw(*intake, *exhaust, moved_rad);
    follow_cursor();
    fill_table(before, after, moved_rad);
    QStringList words;
    for (const std::string& line : cautions_of(after, known))
        words.push_back(QStringLiteral("△ ") + phrase(line));
    for (const std::string& line : reading_of(before, after))
        words.push_back(phrase(line));
    if (!after.dynamic_ratio)
        words.push_back(tr("○ The squeeze from intake closing needs bore, stroke, rod and compression ratio: "
                           "type them in the Train station, under Engine."));
    if (move_->value() == 0)
        words.push_back(
            tr("Move the cam to read what it costs and gains. Later closing and more overlap help "
               "high speed and cost low speed; too much duration for the compression ratio makes a "
               "sluggish engine. Check valve to piston after every move."));
    reading_->setText(words.join(QStringLiteral("\n\n")));
}

// The shared cursor counts from the nose of the lobe in hand.
void EventsPanel::follow_cursor() {
    strip_->set_cursor(std::remainder(context_.cursors.crank_deg() + nose_deg_, 720));
}

void EventsPanel::draw(const PlacedLobe& intake, const PlacedLobe& exhaust, double moved_rad) {
    const auto curve = [&](int which, const PlacedLobe& lobe, bool is_intake, double moved) {
        QVector<double> x, y;
        const double nose = crank_of(lobe, is_intake, 0, moved);
        for (int deg = -360; deg <= 360; ++deg) {
            x.push_back(deg);
            y.push_back(context_.units.value(Quantity::Length, lobe.motion.at((radians(deg) - nose) / 2)));
        }
        strip_->set_curve(which, x, y);
    };
    if (moved_rad != 0) {
        curve(IntakeBefore, intake, true, 0);
        curve(ExhaustBefore, exhaust, false, 0);
    } else {
        strip_->clear_curve(IntakeBefore);
        strip_->clear_curve(ExhaustBefore);
    }
    curve(Intake, intake, true, moved_rad);
    curve(Exhaust, exhaust, false, moved_rad);
    strip_->set_axes(tr("crank angle from the dead centre of overlap, °"),
                     tr("lift, %1").arg(context_.units.unit_name(Quantity::Length)));
    strip_->set_marks({{-180, tr("bottom"), Role::Faint},
                       {0, tr("top, overlap"), Role::Faint},
                       {180, tr("bottom"), Role::Faint}});
    strip_->redraw();
}

void EventsPanel::fill_table(const PairEvents& before, const PairEvents& after, double moved_rad) {
    table_->setRowCount(0);
    table_->set_headings({tr("Event at the height"), tr("As installed"), tr("As moved")});
    const auto add = [&](const QString& what, const QString& a, const QString& b) {
        const int row = table_->rowCount();
        table_->setRowCount(row + 1);
        table_->set_cell(row, 0, what, false);
        table_->set_cell(row, 1, a);
        table_->set_cell(row, 2, b);
    };
    const auto angle = [](double rad) { return QStringLiteral("%1°").arg(fixed(degrees(rad), 1)); };
    const auto length = [&](double si) { return context_.units.text(Quantity::Length, si); };
    const auto valve = [&](auto member, auto text, const QString& what, bool intake) {
        const auto& a = intake ? before.intake : before.exhaust;
        const auto& b = intake ? after.intake : after.exhaust;
        const QString none = tr("never");
        add(what, a ? text((*a).*member) : none, b ? text((*b).*member) : none);
    };
    valve(&ValveEvents::opens_before_rad, angle, tr("Intake opens before top"), true);
    valve(&ValveEvents::closes_after_rad, angle, tr("Intake closes after bottom"), true);
    valve(&ValveEvents::duration_rad, angle, tr("Intake duration"), true);
    valve(&ValveEvents::opens_before_rad, angle, tr("Exhaust opens before bottom"), false);
    valve(&ValveEvents::closes_after_rad, angle, tr("Exhaust closes after top"), false);
    valve(&ValveEvents::duration_rad, angle, tr("Exhaust duration"), false);
    add(tr("Overlap"), angle(before.overlap_rad), angle(after.overlap_rad));
    const auto area = [&](double m_rad) {
        return tr("%1 %2 °")
            .arg(fixed(context_.units.value(Quantity::Length, degrees(m_rad)), 1))
            .arg(context_.units.unit_name(Quantity::Length));
    };
    add(tr("Overlap as area"), area(before.overlap_area_m_rad), area(after.overlap_area_m_rad));
    valve(&ValveEvents::lift_at_dead_centre_m, length, tr("Intake lift at top"), true);
    valve(&ValveEvents::lift_at_dead_centre_m, length, tr("Exhaust lift at top"), false);
    const CamTiming timing = timing_of(intake_rad_, exhaust_rad_);
    add(tr("Intake centre line"), angle(intake_rad_), angle(intake_rad_ + moved_rad));
    add(tr("Exhaust centre line"), angle(exhaust_rad_), angle(exhaust_rad_ - moved_rad));
    add(tr("Advance"), angle(timing.advance_crank_rad), angle(timing.advance_crank_rad - moved_rad));
    const auto ratio = [&](const std::optional<double>& r) {
        return r ? tr("%1 : 1").arg(fixed(*r, 2)) : QStringLiteral("–");
    };
    add(tr("Squeeze from that closing"), ratio(before.dynamic_ratio), ratio(after.dynamic_ratio));
    add(tr("Squeeze from closing at %1").arg(length(kNearlyShut_m)), ratio(before.shut_ratio),
        ratio(after.shut_ratio));
    table_->resizeColumnsToContents();
}

void EventsPanel::keep() {
    const double moved_rad = radians(move_->value() / double(kMoveSteps));
    const double to[] = {intake_rad_ + moved_rad, exhaust_rad_ - moved_rad};
    std::vector<std::pair<Id, double>> kept;
    const QComboBox* boxes[] = {intake_, exhaust_};
    for (int i = 0; i < 2; ++i)
        if (const LoadedLobe* lobe = set_.find(boxes[i]->currentData().toString());
            lobe && lobe->from != LoadedLobe::From::Shelf)
            kept.emplace_back(lobe->id, to[i]);
    {
        const QSignalBlocker quiet(move_);
        move_->setValue(0);
    }
    intake_rad_ = to[0];
    exhaust_rad_ = to[1];
    for (const auto& [id, centreline] : kept) {
        Build build = context_.document.project().builds.at(id);
        build.centreline_rad = centreline;
        context_.document.set_build(id, build);
    }
    refresh_->ask();
}

} // namespace bathmos::app
