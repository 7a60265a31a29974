#include "app/stations/bench/bench_station.h"

#include "app/plot/plot.h"

#include "app/stations/bench/sheet_files.h"
#include "app/stations/bench/sheet_form.h"
#include "app/stations/bench/sheet_limit.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"

#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

enum SheetColumn { kTicked, kWhatChanges, kNow, kBySheet, kInUnit };

QLabel* paragraph(const char* name) {
    auto* out = new QLabel;
    out->setObjectName(QLatin1String(name));
    out->setWordWrap(true);
    out->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    return out;
}

QLabel* heading(const QString& text) {
    auto* out = new QLabel(text);
    out->setFont(Theme::text_font(13, true));
    return out;
}

} // namespace

BenchStation::BenchStation(Context context, const Dialogs& dialogs, QWidget* parent)
    : Station(context, QStringLiteral("bench"), parent), dialogs_(dialogs), pages_(new QStackedLayout(this)) {
    auto* empty =
        new EmptyNote(tr("<h3>Bench</h3><p>Spring tester, gauge ball, micrometer, dials: readings are "
                         "taken here, step by step, with what they say and how surely.</p>"
                         "<p>Open a project or a train first: a sheet belongs to what is built.</p>"));
    connect(empty->add_step(tr("Open project or train…"), QStringLiteral("bench_open")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("open_train")); });
    pages_->addWidget(empty);
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(12, 8, 12, 8);
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_list());
    form_ = new SheetForm(context_);
    split->addWidget(form_);
    split->addWidget(make_answer());
    split->setSizes({210, 560, 390});
    layout->addWidget(split);
    pages_->addWidget(page);
    connect(form_, &SheetForm::edited, this, &BenchStation::keep);
    connect(form_, &SheetForm::message, this, &Station::message);
    refresher_ = new Refresher(this, kAtOnce_ms, [this] { refresh(); });
    const auto ask = [this] { refresher_->ask(); };
    connect(&context_.document, &Document::changed, this, ask);
    connect(&context_.document, &Document::records_changed, this, ask);
    connect(&context_.document, &Document::revision_shown, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    refresh();
}

QWidget* BenchStation::make_list() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 4, 0);
    layout->addWidget(heading(tr("Sheets of this build")));
    kind_ = new QComboBox;
    kind_->setObjectName(QStringLiteral("bench_kind"));
    kind_->setAccessibleName(tr("Kind of a new sheet"));
    for (const bench::SheetKind& kind : bench::sheet_kinds())
        kind_->addItem(phrase(kind.label), words(kind.key));
    auto* begin_one = new QPushButton(tr("New sheet"));
    begin_one->setObjectName(QStringLiteral("bench_new"));
    connect(begin_one, &QPushButton::clicked, this, [this] { begin(kind_->currentData().toString()); });
    layout->addWidget(kind_);
    layout->addWidget(begin_one);
    sheets_ = new QListWidget;
    sheets_->setObjectName(QStringLiteral("bench_sheets"));
    sheets_->setAccessibleName(tr("Sheets of this build"));
    sheets_->setWordWrap(true);
    connect(sheets_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (!filling_ && row >= 0)
            choose(static_cast<Id>(sheets_->item(row)->data(Qt::UserRole).toLongLong()));
    });
    layout->addWidget(sheets_, 1);
    files_ = new SheetFiles(context_, dialogs_, [this] { return shown(); });
    connect(files_, &SheetFiles::message, this, &Station::message);
    connect(files_, &SheetFiles::imported, this, &BenchStation::choose);
    layout->addWidget(files_);
    remove_ = new QPushButton(tr("Remove sheet"));
    remove_->setObjectName(QStringLiteral("bench_remove"));
    connect(remove_, &QPushButton::clicked, this, &BenchStation::remove);
    layout->addWidget(remove_);
    return box;
}

QWidget* BenchStation::make_answer() {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(4, 0, 0, 0);
    layout->addWidget(heading(tr("What it says")));
    says_ = paragraph("bench_says");
    says_->setFont(Theme::number_font(12));
    told_ = paragraph("bench_told");
    layout->addWidget(says_);
    layout->addWidget(told_);
    against_ = new QComboBox;
    against_->setObjectName(QStringLiteral("bench_against"));
    against_->setAccessibleName(tr("Another sheet of its kind to set it against"));
    connect(against_, &QComboBox::activated, this, [this] { fill_answer(); });
    layout->addWidget(against_);
    differs_ = paragraph("bench_differs");
    differs_->setFont(Theme::number_font(12));
    layout->addWidget(differs_);
    layout->addWidget(heading(tr("What it changes")));
    part_ = new QComboBox;
    part_->setObjectName(QStringLiteral("bench_part"));
    part_->setAccessibleName(tr("Which part the sheet is of"));
    connect(part_, &QComboBox::currentIndexChanged, this, [this] {
        if (!filling_)
            keep(form_->sheet());
    });
    layout->addWidget(part_);
    changes_ = new NumberTable(QStringLiteral("bench_changes"));
    changes_->setAccessibleName(tr("What the sheet changes of the train"));
    changes_->set_headings({tr("take"), tr("what"), tr("now"), tr("sheet"), tr("unit")});
    changes_->horizontalHeader()->setStretchLastSection(true);
    connect(changes_, &QTableWidget::itemChanged, this, [this](const QTableWidgetItem* item) {
        if (filling_ || item->column() != kTicked)
            return;
        const std::string& key = said_.effect.changes[static_cast<std::size_t>(item->row())].key;
        if (item->checkState() == Qt::Checked)
            left_out_.erase({sheet_, key});
        else
            left_out_.insert({sheet_, key});
        limit_->ask(said_.effect, ticked());
    });
    changes_->setMinimumHeight(60);
    layout->addWidget(changes_, 1);
    picture_ = new Plot(context_.theme, tr("Readings of the sheet"));
    curve_ = picture_->add_curve(tr("curve"), Role::Predicted);
    read_ = picture_->add_curve(tr("read"), Role::Measured, Stroke::Points);
    other_read_ = picture_->add_curve(tr("the other"), Role::Third, Stroke::Points);
    layout->addWidget(picture_, 2);
    limit_ = new SheetLimit(context_);
    layout->addWidget(limit_);
    closes_ = paragraph("bench_closes");
    layout->addWidget(closes_);
    take_over_ = new QPushButton(tr("Take over, and close its checks"));
    take_over_->setObjectName(QStringLiteral("bench_take_over"));
    take_over_->setToolTip(tr("The ticked numbers become a revision with their tolerance and source"));
    connect(take_over_, &QPushButton::clicked, this, &BenchStation::take_over);
    layout->addWidget(take_over_);
    return box;
}

const Entry* BenchStation::record() const {
    const auto& sheets = context_.document.project().of(EntryKind::Sheet);
    const auto at = sheets.find(sheet_);
    return at == sheets.end() ? nullptr : &at->second;
}

QString BenchStation::part() const {
    return part_->currentData().toString();
}

void BenchStation::refresh() {
    pages_->setCurrentIndex(context_.document.has_train() ? 1 : 0);
    if (!context_.document.has_train())
        return;
    const auto sheets = session::sheets_of(context_.document.project(), context_.document.build());
    if (std::ranges::find(sheets, sheet_) == sheets.end())
        sheet_ = sheets.empty() ? 0 : sheets.back();
    fill_list();
    const Entry* kept = record();
    form_->setEnabled(kept != nullptr);
    remove_->setEnabled(kept && !session::taken_over(*kept)); // its revision rests on it
    if (kept) {
        try {
            if (const auto draft = session::draft_of(*kept))
                form_->show_sheet(*draft);
        } catch (const InputError& error) {
            form_->setEnabled(false);
            emit message(phrase(error.what()));
        }
    } else {
        form_->show_sheet(
            session::new_sheet(kind_->currentData().toString().toStdString(), context_.document.train()));
    }
    fill_parts();
    fill_against();
    fill_answer();
}

void BenchStation::fill_list() {
    filling_ = true;
    sheets_->clear();
    const Project& project = context_.document.project();
    for (const Id id : session::sheets_of(project, context_.document.build())) {
        const Entry& one = project.of(EntryKind::Sheet).at(id);
        auto* item =
            new QListWidgetItem(tr("%1\n%2, %3")
                                    .arg(words(one.name), words(project.revision_label(one.revision)),
                                         session::taken_over(one) ? tr("taken over") : tr("open")),
                                sheets_);
        item->setToolTip(words(one.text));
        item->setData(Qt::UserRole, static_cast<qlonglong>(id));
        if (id == sheet_)
            sheets_->setCurrentItem(item);
    }
    filling_ = false;
}

void BenchStation::fill_parts() {
    filling_ = true;
    const auto parts = session::parts_for_sheet(form_->sheet().kind, context_.document.train());
    const Entry* kept = record();
    const auto known = kept ? kept->words.find("part") : std::map<std::string, std::string>::const_iterator();
    const QString chosen = kept && known != kept->words.end() ? words(known->second) : part();
    part_->clear();
    for (const session::SheetPart& one : parts)
        part_->addItem(phrase(one.label), words(one.key));
    part_->setCurrentIndex(std::max(0, part_->findData(chosen)));
    part_->setVisible(!parts.empty());
    filling_ = false;
}

// Other sheets of this kind, of the project.
void BenchStation::fill_against() {
    const qlonglong now = against_->currentData().toLongLong();
    filling_ = true;
    against_->clear();
    against_->addItem(tr("against nothing"), 0);
    for (const auto& [id, one] : context_.document.project().of(EntryKind::Sheet))
        if (const auto kind = one.words.find("kind");
            id != sheet_ && kind != one.words.end() && kind->second == form_->sheet().kind)
            against_->addItem(tr("against %1").arg(words(one.name)), static_cast<qlonglong>(id));
    against_->setCurrentIndex(std::max(0, against_->findData(now)));
    against_->setVisible(record() && against_->count() > 1);
    filling_ = false;
}

void BenchStation::judge_other() {
    other_.reset();
    const auto& sheets = context_.document.project().of(EntryKind::Sheet);
    const auto at = sheets.find(static_cast<Id>(against_->currentData().toLongLong()));
    QStringList lines;
    if (at != sheets.end() && against_->isVisibleTo(this)) {
        try {
            if (const auto draft = session::draft_of(at->second))
                other_ = session::judged(*draft, context_.document.train(), part().toStdString());
        } catch (const InputError& error) {
            lines << phrase(error.what());
        }
    }
    if (other_ && !other_->problem.empty())
        lines << tr("It says nothing yet: %1").arg(phrase(other_->problem));
    else if (other_)
        for (const MeasuredText& line : session::against(said_, *other_))
            lines << phrase(line.in_words(context_.units.choice()));
    differs_->setText(lines.join(QLatin1Char('\n')));
    differs_->setVisible(!lines.isEmpty());
}

void BenchStation::fill_answer() {
    if (!record()) {
        said_ = {};
        said_.problem = tr("Begin a sheet: choose its kind, and New sheet.").toStdString();
    } else {
        said_ = session::judged(form_->sheet(), context_.document.train(), part().toStdString());
    }
    judge_other();
    const UnitChoice& units = context_.units.choice();
    QStringList says, told, closes;
    for (const MeasuredText& line : said_.lines)
        says << phrase(line.in_words(units));
    says_->setText(said_.problem.empty() ? says.join(QLatin1Char('\n'))
                                         : tr("Not yet: %1").arg(phrase(said_.problem)));
    for (const bench::Told& one : said_.told)
        told << QStringLiteral("▲ %1").arg(phrase(one.text.in_words(units)));
    told_->setText(told.join(QLatin1Char('\n')));
    told_->setVisible(!told.isEmpty());
    filling_ = true;
    changes_->setRowCount(static_cast<int>(said_.effect.changes.size()));
    for (int row = 0; row < changes_->rowCount(); ++row) {
        const bench::SheetChange& one = said_.effect.changes[static_cast<std::size_t>(row)];
        auto* tick = new QTableWidgetItem;
        tick->setFlags(Qt::ItemIsUserCheckable | Qt::ItemIsEnabled | Qt::ItemIsSelectable);
        tick->setCheckState(left_out_.contains({sheet_, one.key}) ? Qt::Unchecked : Qt::Checked);
        tick->setData(Qt::AccessibleTextRole, phrase(one.label));
        changes_->setItem(row, kTicked, tick);
        changes_->set_cell(row, kWhatChanges, phrase(one.label), false);
        changes_->set_cell(row, kNow, context_.units.number(one.quantity, one.before));
        changes_->set_cell(row, kBySheet, context_.units.number(one.quantity, one.after));
        changes_->set_cell(row, kInUnit, context_.units.unit_name(one.quantity), false);
    }
    filling_ = false;
    for (const Check check : said_.effect.closes)
        closes << phrase(info(check).label);
    closes_->setText(closes.isEmpty() ? tr("It closes no check.")
                                      : tr("It closes: %1.").arg(closes.join(QStringLiteral(", "))));
    draw_picture();
    limit_->ask(said_.effect, ticked());
    const bool open = record() && !session::taken_over(*record());
    take_over_->setEnabled(open && (!said_.effect.closes.empty() || !said_.effect.changes.empty()));
}

void BenchStation::draw_picture() {
    picture_->setVisible(said_.picture.has_value());
    if (!said_.picture)
        return;
    const session::SheetPicture& picture = *said_.picture;
    const auto shown = [&](const std::vector<double>& si, Quantity quantity) {
        QVector<double> out;
        for (const double one : si)
            out.push_back(context_.units.value(quantity, one));
        return out;
    };
    const auto axis = [&](const std::string& label, Quantity quantity) {
        return QStringLiteral("%1, %2").arg(phrase(label), context_.units.unit_name(quantity));
    };
    picture_->set_axes(axis(picture.x_label, picture.x_quantity), axis(picture.y_label, picture.y_quantity));
    picture_->set_curve(curve_, shown(picture.curve_x, picture.x_quantity),
                        shown(picture.curve_y, picture.y_quantity));
    picture_->set_curve(read_, shown(picture.read_x, picture.x_quantity),
                        shown(picture.read_y, picture.y_quantity));
    if (const QVector<double> x = shown(picture.read_x, picture.x_quantity); !x.isEmpty()) {
        const auto [low, high] = std::minmax_element(x.begin(), x.end());
        const double margin = 0.03 * (*high - *low);
        picture_->set_x_range(*low - margin, *high + margin);
    }
    if (other_ && other_->picture)
        picture_->set_curve(other_read_, shown(other_->picture->read_x, picture.x_quantity),
                            shown(other_->picture->read_y, picture.y_quantity));
    else
        picture_->clear_curve(other_read_);
    picture_->redraw();
}

void BenchStation::begin(const QString& kind) {
    const bench::SheetKind* what = bench::find_sheet_kind(kind.toStdString());
    if (!what || !context_.document.has_train())
        return;
    const bench::SheetDraft draft = session::new_sheet(kind.toStdString(), context_.document.train());
    Entry entry = session::sheet_record(draft, {}, {}, {}, context_.document.shown());
    const Id id =
        context_.document.add_entry(EntryKind::Sheet, entry, tr("New sheet: %1").arg(phrase(what->label)));
    if (id == 0)
        return; // why was told
    choose(id);
    form_->go_to_first_gap();
}

void BenchStation::choose(Id sheet) {
    sheet_ = sheet;
    refresh();
}

// Every reading is on disk once it is typed; what was taken over already stays as it is.
void BenchStation::keep(const bench::SheetDraft& draft) {
    const Entry* kept = record();
    if (!kept)
        return;
    if (session::taken_over(*kept)) {
        emit message(tr("This sheet was taken over and stays as it is: begin another for new readings."));
        return refresh();
    }
    const session::JudgedSheet said = session::judged(draft, context_.document.train(), part().toStdString());
    Entry next = session::sheet_record(draft, said, kept->name, part().toStdString(), kept->revision);
    next.closes.clear();
    next.when = kept->when;
    context_.document.set_entry(EntryKind::Sheet, sheet_, next, tr("Sheet: %1").arg(words(kept->name)));
}

std::optional<PagedSheet> BenchStation::shown() const {
    const Entry* kept = record();
    if (!kept)
        return std::nullopt;
    return PagedSheet{words(kept->name), words(context_.document.project().revision_label(kept->revision)),
                      words(kept->when), form_->sheet(), said_};
}

std::set<std::string> BenchStation::ticked() const {
    std::set<std::string> out;
    for (const bench::SheetChange& one : said_.effect.changes)
        if (!left_out_.contains({sheet_, one.key}))
            out.insert(one.key);
    return out;
}

void BenchStation::take_over() {
    const Entry* kept = record();
    if (!kept)
        return;
    const std::set<std::string> taken = ticked();
    Assembly next = context_.document.assembly();
    next.train = bench::with_changes(next.train, said_.effect, taken);
    Entry entry = session::sheet_record(form_->sheet(), said_, kept->name, part().toStdString(),
                                        context_.document.shown());
    if (taken.size() < said_.effect.changes.size()) // what the train does not take, the sheet does not answer
        entry.closes.clear();
    session::mark_taken_over(entry);
    if (context_.document.settle_sheet(sheet_, entry, next))
        emit message(tr("Taken over: %1.").arg(words(kept->name)));
}

void BenchStation::remove() {
    if (const Entry* kept = record())
        context_.document.remove_entry(EntryKind::Sheet, sheet_,
                                       tr("Sheet removed: %1").arg(words(kept->name)));
}

void BenchStation::stop() {
    limit_->stop();
}

void BenchStation::take_files(const QStringList& paths) {
    files_->import_files(paths);
}

void BenchStation::navigate(const QString& location) {
    const QString what = location.section(QLatin1Char('/'), 1);
    if (location.startsWith(QStringLiteral("new/")))
        begin(what);
    else if (location.startsWith(QStringLiteral("sheet/")))
        choose(static_cast<Id>(what.toLongLong()));
}

QString BenchStation::help() const {
    return tr(
        "<h3>Bench</h3><p>Choose a kind of sheet and begin one. What the train knows already stands in it. "
        "The "
        "drawing and the line under it say where the instrument goes for the field that has the cursor.</p>"
        "<p>Enter takes a reading and goes on to the next; past the last cell a new row begins. Repeats of "
        "one "
        "reading stand with blanks between: <i>312 315 313</i>. In the readings blank turns the direction, "
        "Ctrl+Delete takes a row away, Ctrl+V pastes rows that were copied from a table. Each reading is "
        "kept as it is typed, raw; undo takes it back.</p>"
        "<p><b>What it says</b> follows at once: each value with two standard deviations, from repeats, from "
        "how "
        "readings lie about their curve, or from what the instrument shows at least, whichever is larger. ▲ "
        "is "
        "what to repeat or reject, and why.</p>"
        "<p><b>Devices</b>: above the readings stands where they come from. <i>Device…</i> describes a "
        "spring "
        "tester, scale or dial on a serial port or the network: what a line of its text holds, tried on what "
        "it "
        "sends. Enter in an empty cell or field takes what it shows and goes on, Ctrl+Enter takes a repeat "
        "into "
        "the same one; a foot switch is a key. <i>Try without a device</i> starts a stand-in over a hidden "
        "part, with errors; <i>Hand</i> says what its hand does next.</p>"
        "<p><b>Files and paper</b>: sheets and files of a spring tester come in, a sheet goes out as a file, "
        "as "
        "PDF, or blank to be filled in by hand. <b>Against</b> sets a sheet beside another of its kind.</p>"
        "<p><b>What it changes</b>: the numbers that the sheet would put into the train, beside those that "
        "it "
        "has, and the limit that the full model gives with those ticked. <i>Take over</i> makes the ticked "
        "ones a revision, with tolerance and source, and closes the "
        "checks "
        "that the sheet answers. A sheet that was taken over stays as it is.</p>"
        "<p>A set of springs names which are out or tired and which goes where; it changes no number. The "
        "same "
        "sheets without the window: <i>bathmos-cli sheet</i>.</p>"
        "<p><b>Caution.</b> Pressed springs, locks that fly, a cam that is turned: what to take care of "
        "stands under "
        "each sheet; makers' instructions, local rules and a competent person come first.</p>");
}

} // namespace bathmos::app
