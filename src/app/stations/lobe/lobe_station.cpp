#include "app/stations/lobe/lobe_station.h"

#include "app/stations/lobe/curves_panel.h"
#include "app/stations/lobe/cutting_panel.h"
#include "app/stations/lobe/design_panel.h"
#include "app/stations/lobe/events_panel.h"
#include "app/stations/lobe/gauge_import_dialog.h"
#include "app/stations/lobe/gauge_panel.h"
#include "app/stations/lobe/heights_panel.h"
#include "app/stations/lobe/ranking_panel.h"
#include "app/stations/lobe/table_export_dialog.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/page_pdf.h"
#include "core/train/unusual.h"
#include "io/file/safe_file.h"
#include "io/lobe/lobe_text.h"
#include "io/project/trace.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QStackedLayout>
#include <QTabWidget>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

constexpr int kListWidth = 190;

// The passes as they came: angle, lift and pass number.
io::Trace trace_of(const QString& file, const ImportedLobe& lobe) {
    io::Trace out;
    out.name = QFileInfo(file).fileName().toStdString();
    out.kind = "lobe";
    out.valve = lobe.raw.name;
    const LobeTable& table = lobe.combined.table;
    io::TraceColumn pass{"pass", false, {}, {}};
    io::TraceColumn angle{table.angle_unit == AngleUnit::CamDegree ? "cam_deg" : "crank_deg", false, {}, {}};
    io::TraceColumn lift{table.lift_unit == LiftUnit::Millimetre ? "lift_mm" : "lift_in", false, {}, {}};
    for (std::size_t p = 0; p < lobe.raw.passes.size(); ++p)
        for (std::size_t i = 0; i < lobe.raw.passes[p].angle.size(); ++i) {
            pass.numbers.push_back(static_cast<double>(p + 1));
            angle.numbers.push_back(lobe.raw.passes[p].angle[i]);
            lift.numbers.push_back(lobe.raw.passes[p].lift[i]);
        }
    out.columns = {pass, angle, lift};
    return out;
}

} // namespace

LobeStation::LobeStation(Context context, const Dialogs& dialogs, QWidget* parent)
    : Station(context, QStringLiteral("lobe"), parent), dialogs_(dialogs), set_(new LobeSet(context, this)),
      pages_(new QStackedLayout(this)) {
    auto* empty = new EmptyNote(tr(
        "<b>No lobe is loaded.</b><br>Import what a profile gauge or a degree wheel gave, or open a project "
        "whose builds have lobes. Here you see what a lobe really asks at every height, and why two that "
        "look alike on their cards differ."));
    auto* open = empty->add_step(tr("Open a project or train…"), QStringLiteral("lobe_empty_open"));
    connect(open, &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("open_train")); });
    pages_->addWidget(empty);
    auto* page = new QWidget;
    auto* across = new QHBoxLayout(page);
    across->setContentsMargins(8, 8, 8, 8);
    across->addWidget(make_list());
    tabs_ = new QTabWidget;
    tabs_->setObjectName(QStringLiteral("lobe_tabs"));
    tabs_->setDocumentMode(true);
    curves_ = new CurvesPanel(context_, *set_);
    design_ = new DesignPanel(context_, *set_);
    ranking_ = new RankingPanel(context_, *set_);
    tabs_->addTab(curves_, tr("Curves"));
    tabs_->addTab(new HeightsPanel(context_, *set_), tr("Heights"));
    auto* gauge = new GaugePanel(context_, *set_);
    connect(gauge, &GaugePanel::message, this, &LobeStation::message);
    tabs_->addTab(gauge, tr("Gauge"));
    tabs_->addTab(new CuttingPanel(context_, *set_), tr("Cutting"));
    tabs_->addTab(new EventsPanel(context_, *set_), tr("Events"));
    tabs_->addTab(design_, tr("New lobe"));
    tabs_->addTab(ranking_, tr("Ranking"));
    across->addWidget(tabs_, 1);
    pages_->addWidget(page);
    connect(set_, &LobeSet::changed, this, &LobeStation::fill_list);
    connect(set_, &LobeSet::chosen_changed, this, &LobeStation::fill_list);
    fill_list();
}

void LobeStation::showEvent(QShowEvent* event) {
    Station::showEvent(event);
    set_->wake(true);
}

void LobeStation::hideEvent(QHideEvent* event) {
    Station::hideEvent(event);
    set_->wake(false);
}

QWidget* LobeStation::make_list() {
    auto* box = new QWidget;
    box->setFixedWidth(kListWidth);
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    auto* title = new QLabel(tr("Lobes: ticked are shown"));
    layout->addWidget(title);
    list_ = new QListWidget;
    list_->setObjectName(QStringLiteral("lobe_list"));
    list_->setAccessibleName(tr("Loaded lobes; Space shows or hides one"));
    list_->setWordWrap(true);
    title->setBuddy(list_);
    layout->addWidget(list_, 1);
    trouble_ = new QLabel;
    trouble_->setObjectName(QStringLiteral("lobe_trouble"));
    trouble_->setWordWrap(true);
    layout->addWidget(trouble_);
    const auto button = [&](const QString& name, const QString& text, const QString& help, auto run) {
        auto* out = new QPushButton(text);
        out->setObjectName(name);
        out->setToolTip(help);
        connect(out, &QPushButton::clicked, this, run);
        layout->addWidget(out);
        return out;
    };
    button(QStringLiteral("lobe_import"), tr("Import profile…"), tr("Readings of a gauge or a degree wheel."),
           [this] { emit wants(QStringLiteral("import_lobe")); });
    fit_ = button(QStringLiteral("lobe_fit"), tr("Fit to the build in hand"),
                  tr("The chosen lobe of the shelf becomes the build's, as a new revision."),
                  [this] { fit_chosen(); });
    button(QStringLiteral("lobe_export_curves"), tr("Export curves…"),
           tr("CSV of all shown lobes as they are laid over each other."), [this] { export_curves(); });
    button(QStringLiteral("lobe_export_table"), tr("Export as a table…"),
           tr("The chosen lobe in any step and unit."), [this] { export_table(); });
    button(QStringLiteral("lobe_export_page"), tr("Export the page…"), tr("PDF of what is on screen."),
           [this] { export_page(); });
    connect(list_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        if (!filling_)
            set_->show_lobe(item->data(Qt::UserRole).toString(), item->checkState() == Qt::Checked);
    });
    connect(list_, &QListWidget::currentItemChanged, this, [this](QListWidgetItem* item) {
        if (!filling_ && item)
            set_->choose(item->data(Qt::UserRole).toString());
    });
    return box;
}

void LobeStation::fill_list() {
    filling_ = true;
    pages_->setCurrentIndex(set_->lobes().empty() ? 0 : 1);
    const auto& lobes = set_->lobes();
    while (list_->count() > static_cast<int>(lobes.size()))
        delete list_->takeItem(list_->count() - 1);
    while (list_->count() < static_cast<int>(lobes.size()))
        new QListWidgetItem(list_);
    const LoadedLobe* chosen = set_->chosen();
    for (int row = 0; row < list_->count(); ++row) {
        const LoadedLobe& lobe = lobes[static_cast<std::size_t>(row)];
        QListWidgetItem* item = list_->item(row);
        item->setText(lobe.curve ? lobe.name : QStringLiteral("■ ") + lobe.name);
        item->setToolTip(lobe.trouble.isEmpty() ? lobe.name : lobe.trouble);
        item->setData(Qt::UserRole, lobe.key);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(lobe.shown ? Qt::Checked : Qt::Unchecked);
        if (&lobe == chosen)
            list_->setCurrentRow(row);
    }
    trouble_->setText(chosen && !chosen->trouble.isEmpty() ? QStringLiteral("■ ") + chosen->trouble
                                                           : QString());
    trouble_->setVisible(!trouble_->text().isEmpty());
    fit_->setEnabled(chosen && chosen->from == LoadedLobe::From::Shelf && chosen->curve &&
                     context_.document.read_only_why().isEmpty());
    filling_ = false;
}

void LobeStation::stop() {
    ranking_->stop();
    design_->stop();
}

void LobeStation::fit_chosen() {
    const LoadedLobe* lobe = set_->chosen();
    if (!lobe || lobe->from != LoadedLobe::From::Shelf)
        return;
    context_.document.fit_part(lobe->id);
}

void LobeStation::import_file(const QString& path) {
    if (!context_.document.has_train()) {
        emit message(
            tr("The lobe was not imported: there is no project to keep it in. Open or begin one first."));
        return;
    }
    try {
        GaugeImportDialog dialog(path, this);
        if (dialog.exec() != QDialog::Accepted)
            return;
        dialog.remember();
        std::vector<GaugedPart> lobes;
        for (const ImportedLobe& lobe : dialog.lobes()) {
            Part part;
            part.kind = PartKind::Lobe;
            part.name = lobe.name.toStdString();
            part.note = QStringLiteral("Gauged, from %1").arg(QFileInfo(path).fileName()).toStdString();
            part.piece.layout = context_.document.train().layout;
            const Lobe& hand = context_.document.train().lobe;
            part.piece.lobe.name = part.name;
            part.piece.lobe.base_radius_m = hand.base_radius_m;
            part.piece.lobe.follower = hand.follower;
            part.piece.lobe.follower_radius_m = hand.follower_radius_m;
            part.piece.lobe.shape = lobe.combined.table;
            const Repeatability& repeat = lobe.combined.repeatability;
            lobes.push_back({std::move(part),
                             io::packed(trace_of(path, lobe)),
                             {{"passes", static_cast<double>(repeat.passes)},
                              {"repeatability_um", repeat.sd_m * 1e6},
                              {"largest_um", repeat.largest_m * 1e6}}});
        }
        const std::vector<Id> ids = context_.document.add_lobes(QFileInfo(path).fileName(), lobes);
        for (const Id id : ids)
            set_->show_lobe(QStringLiteral("part %1").arg(id), true);
        if (!ids.empty()) {
            set_->choose(QStringLiteral("part %1").arg(ids.front()));
            emit message(
                tr("%n lobe(s) put on the shelf. Base radius and follower are taken from the build in "
                   "hand: correct them on the shelf if they differ.",
                   nullptr, static_cast<int>(ids.size())) +
                asked_back(lobes));
        }
    } catch (const InputError& error) {
        emit message(tr("The lobe was not imported. %1").arg(phrase(error.what())));
    }
}

void LobeStation::export_curves() {
    const CurvesPanel::Drawn drawn = curves_->drawn();
    if (drawn.motions.empty())
        return emit message(tr("No lobe is shown, so there are no curves to export: tick one."));
    const QString path = dialogs_.save_file(QStringLiteral("lobes.csv"));
    if (path.isEmpty())
        return;
    try {
        io::write_file(path.toStdString(), io::lobes_csv(drawn.names, drawn.motions, drawn.shift_rad));
    } catch (const InputError& error) {
        emit message(tr("The curves were not exported. %1").arg(phrase(error.what())));
    }
}

void LobeStation::export_table() {
    const LoadedLobe* lobe = set_->chosen();
    if (!lobe || !lobe->curve)
        return emit message(tr("Choose a lobe that can be drawn, then export it."));
    TableExportDialog dialog(lobe->name, this);
    if (dialog.exec() != QDialog::Accepted)
        return;
    const QString path = dialogs_.save_file(QStringLiteral("lobe.csv"));
    if (path.isEmpty())
        return;
    try {
        io::write_file(path.toStdString(), dialog.text_of(*lobe->curve));
    } catch (const InputError& error) {
        emit message(tr("The table was not exported. %1").arg(phrase(error.what())));
    }
}

void LobeStation::export_page() {
    const QString path = dialogs_.save_file(QStringLiteral("lobe.pdf"));
    if (path.isEmpty())
        return;
    const QString title = tr("Lobe: %1").arg(tabs_->tabText(tabs_->currentIndex()));
    QStringList names;
    for (const LoadedLobe* lobe : set_->shown())
        names.push_back(lobe->name);
    if (!write_page_pdf(path, *tabs_->currentWidget(), title, names.join(QStringLiteral(" · "))))
        emit message(tr("The page was not exported: %1 cannot be written. Choose another place.").arg(path));
}

// Of the first lobe whose lift is hardly one: is its unit right?
QString LobeStation::asked_back(const std::vector<GaugedPart>& lobes) const {
    for (const GaugedPart& lobe : lobes)
        if (const auto asked = unusual_lobe_lift(curve_of(lobe.part.piece.lobe).lift_m()))
            return QLatin1Char(' ') + words(lobe.part.name) + QStringLiteral(": ") +
                   phrase(in_words(*asked, context_.units.choice()));
    return {};
}

QString LobeStation::help() const {
    return tr(
        "<h3>Lobe</h3><p>What a lobe asks of everything above it: not only lift and one duration, but the "
        "whole "
        "curve. Lobes of the builds and of the shelf stand in the list; tick those to lay over each other, "
        "choose one to work on.</p>"
        "<p><b>Curves.</b> Cam lift, velocity, acceleration and jerk per cam degree over crank degrees. "
        "Where "
        "one "
        "lobe asks over 1.25 times what another asks, the list says so in words; choose a line and the "
        "cursor "
        "goes there. The faint lines are one standard deviation of the chosen lobe: a spike inside them may "
        "be "
        "noise.</p>"
        "<p><b>Heights.</b> Durations at every height in use, at the lifter or at the valve. A card without "
        "a "
        "height is marked, and the height is given at which the lobe has that duration.</p>"
        "<p><b>Gauge.</b> Residual, noise, runout and readings that stand out. Nothing is corrected unless "
        "you "
        "say so here; all of it is kept with the lobe and can be undone. <i>Other machine</i> lays the same "
        "lobe "
        "by another machine over it: angle, scale, runout, and what is left; <i>Join</i> makes one lobe of "
        "both.</p>"
        "<p><b>Cutting.</b> Contact, radii, pressure angle and grinding wheel, under the follower in "
        "hand.</p>"
        "<p><b>Events.</b> Both valves over one cycle. Move the cam and read what it costs and gains. Check "
        "valve to piston and valve to valve after every move; makers' instructions come first.</p>"
        "<p><b>New lobe.</b> Goals in, a lobe out, or the limit that forbids it. <b>Ranking.</b> Each shown "
        "lobe in the train in hand, by the full model.</p>"
        "<p>Keys: Ctrl+2 comes here, Ctrl+J imports, Space ticks a lobe, arrows move the cursor of a plot, "
        "Ctrl+Z undoes.</p>");
}

} // namespace bathmos::app
