#include "app/stations/train/train_station.h"

#include "app/stations/train/budget_view.h"
#include "app/stations/train/checks_panel.h"
#include "app/stations/train/project_panel.h"
#include "app/stations/train/revisions_panel.h"
#include "app/stations/train/shelf_panel.h"
#include "app/stations/train/stiffness_panel.h"
#include "app/stations/train/train_form.h"
#include "app/stations/train/train_view.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"
#include "session/compare/revision_comparison.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QSlider>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QVBoxLayout>
#include <map>

namespace bathmos::app {

namespace {

constexpr int kTick_ms = 40;

} // namespace

TrainStation::TrainStation(Context context, const Dialogs& dialogs, QWidget* parent)
    : Station(context, QStringLiteral("train"), parent), dialogs_(dialogs), pages_(new QStackedLayout(this)),
      figures_(new NumberTable(QStringLiteral("train_figures"))) {
    figures_->setAccessibleName(tr("What the parts add up to"));
    auto* empty = new EmptyNote(tr("<b>No train is open.</b><br>A train is one valve with everything that "
                                   "moves it: lobe, lifter, pushrod, "
                                   "rocker, springs. Its numbers tell how fast it may run."));
    connect(empty->add_step(tr("Open a project or train…"), QStringLiteral("empty_open")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("open_train")); });
    connect(empty->add_step(tr("New train from what you have…"), QStringLiteral("empty_new")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("new_train")); });
    connect(empty->add_step(tr("See the demo's story, in six steps"), QStringLiteral("empty_demo")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("demo")); });
    pages_->addWidget(empty);
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_tabs());
    split->addWidget(make_picture());
    split->addWidget(make_figures());
    split->setStretchFactor(0, 3);
    split->setStretchFactor(1, 4);
    split->setStretchFactor(2, 3);
    split->setSizes({420, 392, 380});
    pages_->addWidget(split);
    connect(&context_.document, &Document::records_changed, this, &TrainStation::refresh);
    connect(&context_.document, &Document::judged, this, &TrainStation::refresh);
    connect(&context_.units, &DisplayUnits::changed, this, &TrainStation::refresh);
    refresh();
}

QWidget* TrainStation::make_tabs() {
    tabs_ = new QTabWidget;
    tabs_->setObjectName(QStringLiteral("train_tabs"));
    tabs_->setMinimumWidth(340);
    tabs_->setDocumentMode(true);
    form_ = new TrainForm(context_);
    shelf_ = new ShelfPanel(context_, dialogs_);
    auto* project = new ProjectPanel(context_);
    connect(shelf_, &ShelfPanel::message, this, &TrainStation::message);
    connect(project, &ProjectPanel::message, this, &TrainStation::message);
    tabs_->addTab(form_, tr("Numbers"));
    tabs_->addTab(shelf_, tr("Shelf"));
    revisions_ = new RevisionsPanel(context_, dialogs_);
    tabs_->addTab(revisions_, tr("Revisions"));
    tabs_->addTab(project, tr("Engine"));
    return tabs_;
}

void TrainStation::navigate(const QString& location) {
    if (location == QStringLiteral("revisions"))
        tabs_->setCurrentWidget(revisions_);
    else if (location == QStringLiteral("checks"))
        checks_->focus_on_checks();
}

// A part clicked in the drawing: the shelf's parts of its kind, or its numbers.
void TrainStation::take_part(PartKind kind) {
    shelf_->show_kind(kind);
    if (tabs_->currentWidget() == form_)
        form_->show_part(kind);
}

QWidget* TrainStation::make_picture() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(8, 8, 8, 8);
    auto* view = new TrainView(context_);
    connect(view, &TrainView::part_chosen, this, &TrainStation::take_part);
    auto* pictures = new QTabWidget;
    pictures->setObjectName(QStringLiteral("train_pictures"));
    pictures->setDocumentMode(true);
    pictures->addTab(view, tr("Drawing"));
    auto* budget = new QWidget;
    auto* budget_layout = new QVBoxLayout(budget);
    budget_layout->setContentsMargins(0, 0, 0, 0);
    budget_layout->addWidget(new BudgetView(context_), 1);
    budget_layout->addWidget(new StiffnessPanel(context_));
    auto* scrolled = new QScrollArea;
    scrolled->setWidgetResizable(true);
    scrolled->setFrameShape(QFrame::NoFrame);
    scrolled->setWidget(budget);
    pictures->addTab(scrolled, tr("Budget"));
    layout->addWidget(pictures, 1);
    layout->addWidget(make_player(view));
    auto* line = new QHBoxLayout;
    auto* label = new QLabel(tr("Crank angle from the nose"));
    angle_ = new QSlider(Qt::Horizontal);
    angle_->setObjectName(QStringLiteral("crank_slider"));
    angle_->setAccessibleName(tr("Crank angle from the nose, degrees"));
    angle_->setRange(-360, 360);
    angle_->setPageStep(10);
    label->setBuddy(angle_);
    angle_text_ = new QLabel;
    angle_text_->setFont(Theme::number_font());
    angle_text_->setMinimumWidth(64);
    angle_text_->setAlignment(Qt::AlignRight);
    line->addWidget(label);
    line->addWidget(angle_, 1);
    line->addWidget(angle_text_);
    layout->addLayout(line);
    connect(angle_, &QSlider::valueChanged, this, [this](int deg) { context_.cursors.set_crank(deg); });
    const auto show = [this](double deg) {
        const QSignalBlocker quiet(angle_);
        angle_->setValue(static_cast<int>(std::lround(deg)));
        angle_text_->setText(fixed(deg, 1) + QStringLiteral("°"));
    };
    connect(&context_.cursors, &Cursors::crank_changed, this, show);
    show(context_.cursors.crank_deg());
    return box;
}

QWidget* TrainStation::make_player(TrainView* view) {
    auto* box = new QWidget;
    auto* line = new QHBoxLayout(box);
    line->setContentsMargins(0, 0, 0, 0);
    play_ = new QPushButton(tr("Play"));
    play_->setObjectName(QStringLiteral("play"));
    play_->setCheckable(true);
    play_->setToolTip(tr("Slow motion of one cycle, over and over (Ctrl+P)"));
    play_->setShortcut(QKeySequence(Qt::CTRL | Qt::Key_P));
    cycle_time_ = new QComboBox;
    cycle_time_->setAccessibleName(tr("Seconds that a cycle takes on screen"));
    for (const int seconds : {4, 8, 20, 60})
        cycle_time_->addItem(tr("a cycle in %1 s").arg(seconds), seconds);
    cycle_time_->setCurrentIndex(1);
    auto* factor = new QComboBox;
    factor->setObjectName(QStringLiteral("exaggeration"));
    factor->setAccessibleName(tr("How many times deflections are drawn"));
    for (const int times : {1, 5, 10, 20})
        factor->addItem(times == 1 ? tr("to scale") : tr("deflections × %1").arg(times), times);
    line->addWidget(play_);
    line->addWidget(cycle_time_);
    line->addStretch();
    line->addWidget(factor);
    connect(play_, &QPushButton::toggled, this, &TrainStation::set_playing);
    connect(factor, &QComboBox::currentIndexChanged, view,
            [factor, view] { view->set_exaggeration(factor->currentData().toDouble()); });
    clock_.setInterval(kTick_ms);
    connect(&clock_, &QTimer::timeout, this, &TrainStation::tick);
    return box;
}

void TrainStation::set_playing(bool on) {
    on ? clock_.start() : clock_.stop();
    const QSignalBlocker quiet(play_);
    play_->setChecked(on);
    play_->setText(on ? tr("Pause") : tr("Play"));
}

void TrainStation::tick() {
    if (!isVisible())
        return set_playing(false);
    const double turn = 720.0 * kTick_ms / 1000 / cycle_time_->currentData().toDouble();
    const double next = context_.cursors.crank_deg() + turn;
    context_.cursors.set_crank(next > 360 ? next - 720 : next);
}

QWidget* TrainStation::make_figures() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 8, 8, 8);
    figures_->set_headings({tr("What the parts add up to"), tr("Value"), tr("Unit"), tr("Compared")});
    figures_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    layout->addWidget(figures_, 3);
    checks_ = new ChecksPanel(context_, dialogs_);
    connect(checks_, &ChecksPanel::message, this, &TrainStation::message);
    layout->addWidget(checks_, 3);
    return box;
}

void TrainStation::refresh() {
    pages_->setCurrentIndex(context_.document.has_train() ? 1 : 0);
    if (!context_.document.has_train())
        return;
    if (const TrainFigures* figures = context_.document.figures())
        show_figures(*figures);
    else
        figures_->setRowCount(0);
}

// Rows of figures; in the same order for the same kind of train.
std::vector<TrainStation::Row> TrainStation::rows_of(const TrainFigures& f) const {
    std::vector<Row> out;
    const auto add = [&](const QString& what, const QString& value, const QString& unit,
                         bool strong = false) {
        out.push_back({what, value, unit, strong});
    };
    const auto quantity = [&](const QString& what, Quantity q, double si, bool strong = false) {
        add(what, context_.units.number(q, si), context_.units.unit_name(q), strong);
    };
    const auto share = [&](const QString& what, double value, double total) {
        add(QStringLiteral("    ") + what, fixed(100 * value / total, 1), QStringLiteral("%"));
    };
    quantity(tr("Equivalent mass at the valve"), Quantity::Mass, f.equivalent_mass_total_kg, true);
    for (const Share& s : f.equivalent_mass_kg)
        if (s.value > 0)
            share(phrase(s.part), s.value, f.equivalent_mass_total_kg);
    quantity(tr("Stiffness at the valve tip"), Quantity::Stiffness, f.stiffness_N_per_m, true);
    for (const Share& s : f.compliance_m_per_N)
        share(tr("%1, of the compliance").arg(phrase(s.part)), s.value, 1 / f.stiffness_N_per_m);
    if (f.link_stiffness_N_per_m > 0)
        quantity(tr("Pushrod with its ends"), Quantity::Stiffness, f.link_stiffness_N_per_m);
    add(tr("Train's natural frequency"), fixed(f.train_hz, 0), QStringLiteral("Hz"), true);
    for (const SpringFigures& s : f.springs)
        add(tr("First surge, %1").arg(QString::fromStdString(s.name)), fixed(s.surge_hz, 0),
            QStringLiteral("Hz"));
    quantity(tr("Peak lift, rigid"), Quantity::Length, f.peak_lift_m, true);
    quantity(tr("Seat load"), Quantity::Force, f.seat_load_N, true);
    if (f.net_seat_load_N != f.seat_load_N)
        quantity(tr("Seat load less pressure"), Quantity::Force, f.net_seat_load_N);
    quantity(tr("Open load"), Quantity::Force, f.open_load_N, true);
    for (const SpringFigures& s : f.springs)
        quantity(tr("Rate, %1").arg(QString::fromStdString(s.name)), Quantity::Stiffness, s.rate_N_per_m);
    quantity(tr("Bind margin at peak lift"), Quantity::Length, f.bind_margin_m, true);
    add(tr("Separation, rigid"), f.separation ? fixed(f.separation->speed_rpm, 0) : QStringLiteral("–"),
        tr("rev/min"), true);
    if (f.separation)
        add(tr("    where, from the nose"), fixed(f.separation->crank_deg, 1), QStringLiteral("°"));
    return out;
}

// Gaps of the valve, with the motion at the speed cursor where it is computed.
void TrainStation::add_clearances(std::vector<Row>& rows) const {
    const auto add = [&](const QString& what, const std::optional<Clearance>& gap) {
        if (!gap)
            return;
        rows.push_back({what, context_.units.number(Quantity::Length, gap->least_m),
                        context_.units.unit_name(Quantity::Length), true});
        rows.push_back({tr("    where, from overlap's dead centre"), fixed(gap->crank_deg, 1),
                        QStringLiteral("°"), false});
    };
    const QString motion = context_.document.judged_by_motion()
                               ? tr("computed, %1 rev/min").arg(fixed(context_.cursors.speed_rpm(), 0))
                               : tr("standing still");
    add(tr("Valve to piston, %1").arg(motion), context_.document.piston());
    add(tr("Valve to valve, %1").arg(motion), context_.document.other_valve());
}

void TrainStation::show_figures(const TrainFigures& f) {
    std::vector<Row> rows = rows_of(f);
    add_clearances(rows);
    std::map<QString, QString> compared;
    const Revision* other = context_.document.compared_revision();
    if (const TrainFigures* figures = context_.comparison.figures())
        for (const Row& row : rows_of(*figures))
            compared.emplace(row.what, row.value);
    figures_->setRowCount(static_cast<int>(rows.size()));
    figures_->setColumnHidden(3, !other);
    for (int i = 0; i < figures_->rowCount(); ++i) {
        const Row& row = rows[static_cast<std::size_t>(i)];
        figures_->set_cell(i, 0, row.what, false);
        figures_->set_cell(i, 1, row.value);
        figures_->set_cell(i, 2, row.unit, false);
        const auto at = compared.find(row.what);
        figures_->set_cell(i, 3, at == compared.end() ? QString() : at->second);
        if (const QFont font = Theme::text_font(12, row.strong); figures_->item(i, 0)->font() != font)
            figures_->item(i, 0)->setFont(font);
    }
}

QString TrainStation::subject() const {
    const QString rule = checks_->chosen_rule();
    return rule.isEmpty() ? QString() : QStringLiteral("rule/") + rule;
}

QString TrainStation::help() const {
    return tr(
        "<h3>Train</h3><p>The parts of one valve's train. Type a new "
        "one and everything that "
        "follows from it changes at once: equivalent mass, stiffness, frequencies, loads, bind margin, the "
        "rigid separation speed, "
        "and in the background the limit speed on the strip.</p>"
        "<p><b>Separation, rigid</b> is an upper bound that people quote. The train flexes, the springs "
        "surge and the valve bounces, so the "
        "computed limit lies below it: see Motion.</p>"
        "<p>A number that cannot be is marked with a dashed border and is not taken; its tool tip says why. "
        "Ctrl+Z and Ctrl+Shift+Z undo and "
        "redo, one step for each field typed into. Drag a number's name sideways to see where the limit "
        "would go "
        "before anything is decided; Up and Down in a field change it in steps. Ctrl+U changes metric to "
        "inch. The drawing moves with the "
        "crank-angle cursor; it shows the "
        "computed motion at the speed cursor where there is one. Red dashed parts have lost contact, red "
        "filled coils "
        "touch. Ctrl+P plays a cycle in slow motion at the speed cursor; deflections can be drawn larger "
        "than "
        "they are, and the picture says by how much.</p>"
        "<p><b>Records.</b> There is nothing to save: every edit is on disk when you see it, and undo goes "
        "back "
        "also after the project was closed. Each change of the train is a revision with its reason; a rig "
        "run "
        "freezes (▣) the one it was made with. <i>Shelf</i>: parts with what was measured on them, by which "
        "source, and how sure; a double click or <i>Fit to build</i> puts one into the train, and moves the "
        "installed height by what shim, seat and retainer say. <i>Revisions</i>: the tree, what differs from "
        "the "
        "one compared, and what that does. <i>Engine</i>: its numbers make clearances of valve, piston and "
        "valve. "
        "Click a part in the drawing, or go through them with Up and Down there, to see it on the shelf.</p>"
        "<p><b>Signs beside the numbers</b> say how each is known: ? assumed, ≈ estimated as in every train, "
        "▭ from a sheet, ● measured, ◇ fitted to a run. A click on one, or Alt+Down in the field, shows "
        "source and "
        "tolerance and lets both be changed. An assumed number (Ctrl+N begins a train of what you have and "
        "assumes the "
        "rest) counts as known once you type it; its part is drawn dotted until then. A heading folds its "
        "group; the "
        "part chosen in the drawing opens it again.</p>"
        "<p><b>Budget</b>, beside the drawing: where moving mass and compliance come from; <i>Try stiffer "
        "links</i> "
        "says what the limit gains with each link a tenth stiffer, at its mass and with what it takes.</p>"
        "<p><b>The strip</b> below, on every station: Up and Down there go through the claims and say where "
        "each "
        "comes from, Enter leads there; wheel, + and − change the range, 0 fits it. Whether model, rig and "
        "dyno agree "
        "stands at its left.</p>"
        "<p><b>Options of the model</b>, at the end of the form: lash from the loaded rest, a valve that "
        "gives, "
        "a camshaft that twists, a rig's drive that turns unevenly; at a spring, pitch that scatters from "
        "coil to coil. They are off unless you or a calibration "
        "(Rig, Calibrate) switch them on.</p>"
        "<p><b>Findings</b>: ■ stop, ▲ warn, ○ note, each with its source in the tool tip. A stop marks "
        "every "
        "prediction until it is mended, or waived with a reason; a waiver ends when its parts change. <i>To "
        "check "
        "again</i> lists what depends on what was changed; a line of what you found closes a check, or a "
        "line of "
        "why not. A number far from what engines have is asked back (▲, <i>is its unit right?</i>) and marks "
        "predictions "
        "until it is mended or waived.</p>"
        "<p><b>A file that changed under you</b>: a project that was deleted, moved, replaced or written by "
        "another "
        "program keeps no edit; the number goes back, and <i>Save a copy</i> stands beside the message.</p>"
        "<p><b>Caution.</b> Compressed springs and flying locks injure: eye protection, cover the drain "
        "holes, count the locks. These numbers "
        "are advice; makers' instructions, local rules and a competent person come first.</p>");
}

} // namespace bathmos::app
