#include "app/stations/train/train_station.h"

#include "app/stations/train/train_form.h"
#include "app/stations/train/train_view.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSlider>
#include <QSplitter>
#include <QStackedLayout>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

constexpr int kTick_ms = 40;

// A square, a triangle and a ring: severity is told by shape first.
QString sign_of(Severity severity) {
    switch (severity) {
    case Severity::Stop:
        return QStringLiteral("■");
    case Severity::Warn:
        return QStringLiteral("▲");
    case Severity::Note:
        break;
    }
    return QStringLiteral("○");
}

QString severity_word(Severity severity) {
    return severity == Severity::Stop   ? TrainStation::tr("stop")
           : severity == Severity::Warn ? TrainStation::tr("warn")
                                        : TrainStation::tr("note");
}

} // namespace

TrainStation::TrainStation(Context context, QWidget* parent)
    : Station(context, QStringLiteral("train"), parent), pages_(new QStackedLayout(this)),
      figures_(new NumberTable(QStringLiteral("train_figures"))), findings_(new QListWidget) {
    auto* empty = new EmptyNote(tr("<b>No train is open.</b><br>A train is one valve with everything that "
                                   "moves it: lobe, lifter, pushrod, "
                                   "rocker, springs. Its numbers tell how fast it may run."));
    connect(empty->add_step(tr("Open a train file…"), QStringLiteral("empty_open")), &QPushButton::clicked,
            this, [this] { emit wants(QStringLiteral("open_train")); });
    connect(empty->add_step(tr("Start a new train"), QStringLiteral("empty_new")), &QPushButton::clicked,
            this, [this] { emit wants(QStringLiteral("new_train")); });
    pages_->addWidget(empty);
    auto* split = new QSplitter(Qt::Horizontal);
    auto* form = new TrainForm(context_);
    form->setMinimumWidth(330);
    split->addWidget(form);
    split->addWidget(make_picture());
    split->addWidget(make_figures());
    split->setStretchFactor(0, 3);
    split->setStretchFactor(1, 4);
    split->setStretchFactor(2, 3);
    split->setSizes({372, 420, 400});
    pages_->addWidget(split);
    connect(&context_.document, &Document::changed, this, &TrainStation::refresh);
    connect(&context_.units, &DisplayUnits::changed, this, &TrainStation::refresh);
    refresh();
}

QWidget* TrainStation::make_picture() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(8, 8, 8, 8);
    auto* view = new TrainView(context_);
    layout->addWidget(view, 1);
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
        angle_text_->setText(QString::number(deg, 'f', 1) + QStringLiteral("°"));
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
    figures_->set_headings({tr("What the parts add up to"), tr("Value"), tr("Unit")});
    figures_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    layout->addWidget(figures_, 3);
    auto* title = new QLabel(tr("Findings"));
    title->setFont(Theme::text_font(13, true));
    layout->addWidget(title);
    findings_->setObjectName(QStringLiteral("findings"));
    findings_->setAccessibleName(tr("Findings"));
    findings_->setWordWrap(true);
    findings_->setFrameShape(QFrame::NoFrame);
    layout->addWidget(findings_, 1);
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
    show_findings();
}

void TrainStation::show_figures(const TrainFigures& f) {
    int row = 0;
    const auto add = [&](const QString& what, const QString& value, const QString& unit,
                         bool strong = false) {
        figures_->setRowCount(row + 1);
        figures_->set_cell(row, 0, what, false);
        figures_->set_cell(row, 1, value);
        figures_->set_cell(row, 2, unit, false);
        if (strong)
            figures_->item(row, 0)->setFont(Theme::text_font(12, true));
        ++row;
    };
    const auto quantity = [&](const QString& what, Quantity q, double si, bool strong = false) {
        add(what, context_.units.number(q, si), context_.units.unit_name(q), strong);
    };
    const auto share = [&](const Share& s, double total) {
        add(QStringLiteral("    %1").arg(QString::fromStdString(s.part)),
            QString::number(100 * s.value / total, 'f', 1), QStringLiteral("%"));
    };
    figures_->setRowCount(0);
    quantity(tr("Equivalent mass at the valve"), Quantity::Mass, f.equivalent_mass_total_kg, true);
    for (const Share& s : f.equivalent_mass_kg)
        if (s.value > 0)
            share(s, f.equivalent_mass_total_kg);
    quantity(tr("Stiffness at the valve tip"), Quantity::Stiffness, f.stiffness_N_per_m, true);
    for (const Share& s : f.compliance_m_per_N)
        share({s.part + ", of the give", s.value}, 1 / f.stiffness_N_per_m);
    if (f.link_stiffness_N_per_m > 0)
        quantity(tr("Pushrod with its ends"), Quantity::Stiffness, f.link_stiffness_N_per_m);
    add(tr("Train's own frequency"), QString::number(f.train_hz, 'f', 0), QStringLiteral("Hz"), true);
    for (const SpringFigures& s : f.springs)
        add(tr("First surge, %1").arg(QString::fromStdString(s.name)), QString::number(s.surge_hz, 'f', 0),
            QStringLiteral("Hz"));
    quantity(tr("Peak lift, rigid"), Quantity::Length, f.peak_lift_m, true);
    quantity(tr("Seat load"), Quantity::Force, f.seat_load_N, true);
    if (f.net_seat_load_N != f.seat_load_N)
        quantity(tr("Seat load less pressure"), Quantity::Force, f.net_seat_load_N);
    quantity(tr("Open load"), Quantity::Force, f.open_load_N, true);
    for (const SpringFigures& s : f.springs)
        quantity(tr("Rate, %1").arg(QString::fromStdString(s.name)), Quantity::Stiffness, s.rate_N_per_m);
    quantity(tr("Bind margin at peak lift"), Quantity::Length, f.bind_margin_m, true);
    add(tr("Separation, rigid"),
        f.separation ? QString::number(f.separation->speed_rpm, 'f', 0) : QStringLiteral("–"), tr("rev/min"),
        true);
    if (f.separation)
        add(tr("    where, from the nose"), QString::number(f.separation->crank_deg, 'f', 1),
            QStringLiteral("°"));
}

void TrainStation::show_findings() {
    findings_->clear();
    const auto add = [&](Severity severity, const QString& text, const QString& place) {
        auto* item = new QListWidgetItem(
            QStringLiteral("%1 %2: %3").arg(sign_of(severity), severity_word(severity), text), findings_);
        item->setToolTip(place);
        item->setForeground(context_.theme.color(severity == Severity::Stop   ? Role::StopMark
                                                 : severity == Severity::Warn ? Role::LimitMark
                                                                              : Role::Ink));
    };
    for (const InputProblem& problem : context_.document.problems())
        add(Severity::Stop, QString::fromStdString(problem.sentence()),
            QString::fromStdString(problem.place));
    if (const TrainFigures* figures = context_.document.figures())
        for (const Finding& finding : figures->findings)
            add(finding.severity, QString::fromStdString(in_words(finding, context_.units.system())),
                QString::fromStdString(finding.part));
    if (findings_->count() == 0)
        findings_->addItem(tr("none"));
}

QString TrainStation::help() const {
    return tr(
        "<h3>Train</h3><p>The parts of one valve's train. Every number stands in the train file; type a new "
        "one and everything that "
        "follows from it changes at once: equivalent mass, stiffness, frequencies, loads, bind margin, the "
        "rigid separation speed, "
        "and in the background the limit speed on the strip.</p>"
        "<p><b>Separation, rigid</b> is an upper bound that people quote. The train flexes, the springs "
        "surge and the valve bounces, so the "
        "computed limit lies below it: see Motion.</p>"
        "<p>A number that cannot be is marked with a dashed border and is not taken; its tool tip says why. "
        "Ctrl+Z and Ctrl+Shift+Z undo and "
        "redo, one step for each field typed into. Pull a number's name sideways to see where the limit "
        "would go "
        "before anything is decided; Up and Down in a field change it in steps. Ctrl+U changes metric to "
        "inch. The drawing moves with the "
        "crank-angle cursor; it shows the "
        "computed motion at the speed cursor where there is one. Red dashed parts have lost contact, red "
        "filled coils "
        "touch. Ctrl+P plays a cycle in slow motion at the speed cursor; deflections can be drawn larger "
        "than "
        "they are, and the picture says by how much.</p>"
        "<p><b>Caution.</b> Compressed springs and flying locks injure: eye protection, cover the drain "
        "holes, count the locks. These numbers "
        "are advice; makers' instructions, local rules and a competent person come first.</p>");
}

} // namespace bathmos::app
