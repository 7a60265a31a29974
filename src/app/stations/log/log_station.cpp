#include "app/stations/log/log_station.h"

#include "app/stations/log/good_bad_view.h"
#include "app/stations/log/life_view.h"
#include "app/stations/log/note_form.h"
#include "app/stations/log/tell_view.h"
#include "app/text/words.h"
#include "app/widgets/empty_note.h"
#include "app/widgets/number_table.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"

#include <QAction>
#include <QBuffer>
#include <QComboBox>
#include <QHeaderView>
#include <QImageReader>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSplitter>
#include <QStackedLayout>
#include <QTabWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace bathmos::app {

namespace {

// In the table at once: each row is measured for its words. Older lines are found by words, kind and part.
constexpr std::size_t kMostLines = 300;
constexpr int kPhoto_px = 290;

// Where a line is looked at.
QString place_of(session::LineKind kind) {
    using Kind = session::LineKind;
    switch (kind) {
    case Kind::Sheet:
        return QStringLiteral("bench");
    case Kind::Run:
    case Kind::Calibration:
        return QStringLiteral("rig");
    case Kind::Pull:
        return QStringLiteral("dyno");
    case Kind::Campaign:
        return QStringLiteral("plan");
    case Kind::Verdict:
        return QStringLiteral("verdict");
    case Kind::Limits:
        return QStringLiteral("motion");
    default:
        return QStringLiteral("train");
    }
}

bool by_hand(session::LineKind kind) {
    return kind == session::LineKind::Note || kind == session::LineKind::Use ||
           kind == session::LineKind::Failure;
}

} // namespace

LogStation::LogStation(Context context, const Dialogs& dialogs, QWidget* parent)
    : Station(context, QStringLiteral("log"), parent), pages_(new QStackedLayout(this)), dialogs_(dialogs) {
    auto* empty = new EmptyNote(
        tr("<h3>Log</h3><p>Everything that was done to a train, measured on it and decided about it, one "
           "line each; "
           "what running has cost its parts; what failed, and where.</p><p>It begins with a project.</p>"));
    connect(empty->add_step(tr("Open a project or train…"), QStringLiteral("log_open")),
            &QPushButton::clicked, this, [this] { emit wants(QStringLiteral("open_train")); });
    pages_->addWidget(empty);
    auto* page = new QWidget;
    auto* layout = new QVBoxLayout(page);
    layout->setContentsMargins(12, 8, 12, 8);
    layout->setSpacing(6);
    layout->addWidget(make_filters());
    auto* split = new QSplitter(Qt::Horizontal);
    tabs_ = new QTabWidget;
    tabs_->setObjectName(QStringLiteral("log_tabs"));
    lines_ = new NumberTable(QStringLiteral("log_lines"));
    lines_->setAccessibleName(tr("Lines of the log"));
    lines_->set_headings({tr("when"), tr("what"), tr("title"), tr("of"), tr("words")});
    lines_->setSelectionBehavior(QAbstractItemView::SelectRows);
    lines_->wrap_last_column();
    connect(lines_, &QTableWidget::cellActivated, this, [this](int row) { open_line(row); });
    auto* take_out = new QAction(tr("Remove the line"), lines_);
    take_out->setObjectName(QStringLiteral("log_remove"));
    take_out->setShortcut(QKeySequence::Delete);
    take_out->setShortcutContext(Qt::WidgetShortcut);
    connect(take_out, &QAction::triggered, this, &LogStation::remove);
    lines_->addAction(take_out);
    lines_->setContextMenuPolicy(Qt::ActionsContextMenu);
    life_ = new LifeView(context_);
    tabs_->addTab(lines_, tr("Time line"));
    tabs_->addTab(life_, tr("Life of parts"));
    between_ = new GoodBadView(context_);
    tabs_->addTab(between_, tr("Last good, first bad"));
    tell_ = new TellView(context_, dialogs);
    tabs_->addTab(tell_, tr("For others"));
    form_ = new NoteForm(context_, dialogs);
    side_ = make_side();
    split->addWidget(tabs_);
    split->addWidget(side_);
    split->setSizes({940, 212});
    split->setStretchFactor(0, 1);
    layout->addWidget(split, 1);
    pages_->addWidget(page);
    connect(form_, &NoteForm::message, this, &Station::message);
    connect(tell_, &TellView::message, this, &Station::message);
    connect(tabs_, &QTabWidget::currentChanged, this,
            [this] { side_->setVisible(tabs_->currentWidget() != tell_); }); // the page wants the room
    refresher_ = new Refresher(this, kPage_ms, [this] { refresh(); });
    const auto ask = [this] { refresher_->ask(); };
    connect(&context_.document, &Document::records_changed, this, ask);
    connect(&context_.document, &Document::revision_shown, this, ask);
    connect(&context_.document, &Document::changed, this, ask);
    refresh();
}

QWidget* LogStation::make_filters() {
    auto* box = new QWidget;
    auto* line = new QHBoxLayout(box);
    line->setContentsMargins(0, 0, 0, 0);
    words_ = new QLineEdit;
    words_->setObjectName(QStringLiteral("log_words"));
    words_->setAccessibleName(tr("Words to find"));
    words_->setPlaceholderText(tr("words, a serial, a name"));
    words_->setClearButtonEnabled(true);
    connect(words_, &QLineEdit::textChanged, this, [this] { find(); });
    line->addWidget(words_, 1);
    const auto choice = [&](const char* name, const QString& what) {
        auto* out = new QComboBox;
        out->setObjectName(QLatin1String(name));
        out->setAccessibleName(what);
        out->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        out->setMinimumContentsLength(16);
        connect(out, &QComboBox::activated, this, [this] { find(); });
        line->addWidget(out);
        return out;
    };
    kinds_ = choice("log_kinds", tr("Kind of line"));
    kinds_->addItem(tr("Everything"), -1);
    for (const session::LineKindInfo& kind : session::line_kinds())
        kinds_->addItem(phrase(kind.label), static_cast<int>(kind.kind));
    builds_ = choice("log_builds", tr("Build"));
    parts_ = choice("log_parts", tr("Part"));
    count_ = new QLabel;
    count_->setObjectName(QStringLiteral("log_count"));
    line->addWidget(count_);
    return box;
}

QWidget* LogStation::make_side() {
    auto* out = new QWidget;
    auto* column = new QVBoxLayout(out);
    column->setContentsMargins(0, 0, 0, 0);
    column->addWidget(form_);
    photo_ = new QLabel;
    photo_->setObjectName(QStringLiteral("log_photo"));
    photo_->setAccessibleName(tr("Photo of the line"));
    photo_->setAlignment(Qt::AlignCenter);
    column->addWidget(photo_);
    save_files_ = new QPushButton;
    save_files_->setObjectName(QStringLiteral("log_save_files"));
    connect(save_files_, &QPushButton::clicked, this, &LogStation::save_files);
    column->addWidget(save_files_);
    column->addStretch(1);
    connect(lines_, &QTableWidget::currentCellChanged, this, &LogStation::show_photo);
    return out;
}

const session::LogLine* LogStation::line_at(int row) const {
    return log_ && row >= 0 && row < static_cast<int>(found_.size())
               ? &log_->lines()[found_[static_cast<std::size_t>(row)]]
               : nullptr;
}

void LogStation::show_photo() {
    const session::LogLine* line = line_at(lines_->currentRow());
    photo_->clear();
    save_files_->setVisible(line && !line->files.empty());
    if (!line || line->files.empty())
        return;
    QStringList names;
    for (const session::LineFile& file : line->files)
        names << words(file.name);
    save_files_->setText(tr("Save %1…").arg(names.join(QStringLiteral(", "))));
    for (const session::LineFile& file : line->files)
        try {
            QByteArray bytes = QByteArray::fromStdString(context_.document.kept_file(file.hash));
            QBuffer buffer(&bytes);
            QImageReader reader(&buffer); // reads no more than it shows; refuses what is absurdly large
            const QSize size = reader.size();
            if (!size.isValid())
                continue;
            reader.setScaledSize(size.scaled(kPhoto_px, kPhoto_px, Qt::KeepAspectRatio));
            photo_->setPixmap(QPixmap::fromImageReader(&reader));
            return;
        } catch (const InputError& error) {
            emit message(phrase(error.what()));
        }
}

void LogStation::save_files() {
    const session::LogLine* line = line_at(lines_->currentRow());
    if (!line)
        return;
    for (const session::LineFile& file : line->files) {
        const QString path = dialogs_.save_file(words(file.name));
        if (path.isEmpty())
            return;
        try {
            io::write_file(native(path), context_.document.kept_file(file.hash));
        } catch (const InputError& error) {
            return void(emit message(phrase(error.what())));
        }
    }
}

void LogStation::refresh() {
    const bool open = context_.document.has_train();
    pages_->setCurrentIndex(open ? 1 : 0);
    if (!open) {
        stop();
        log_.reset();
        return;
    }
    log_.emplace(context_.document.project());
    fill_parts();
    form_->show_parts();
    life_->refresh();
    between_->refresh();
    tell_->refresh();
    find();
}

void LogStation::fill_parts() {
    const Project& project = context_.document.project();
    const auto fill = [](QComboBox* box, const QString& all, const auto& records, auto name) {
        const QVariant before = box->currentData();
        box->clear();
        box->addItem(all, 0);
        for (const auto& [id, record] : records)
            box->addItem(words(name(record)), static_cast<qlonglong>(id));
        box->setCurrentIndex(std::max(0, box->findData(before)));
    };
    fill(builds_, tr("All builds"), project.builds, [](const Build& build) { return build.name; });
    fill(parts_, tr("All parts"), project.parts,
         [](const Part& part) { return part.serial.empty() ? part.name : part.name + " " + part.serial; });
}

void LogStation::find() {
    if (!log_)
        return;
    session::LogFilter filter;
    filter.words = words_->text().toStdString();
    if (const int kind = kinds_->currentData().toInt(); kind >= 0)
        filter.kinds.insert(static_cast<session::LineKind>(kind));
    filter.build = static_cast<Id>(builds_->currentData().toLongLong());
    filter.part = static_cast<Id>(parts_->currentData().toLongLong());
    found_ = log_->find(filter);
    const std::size_t shown = std::min(found_.size(), kMostLines);
    lines_->setRowCount(static_cast<int>(shown));
    for (std::size_t i = 0; i < shown; ++i) {
        const session::LogLine& line = log_->lines()[found_[i]];
        const int row = static_cast<int>(i);
        lines_->set_cell(row, 0, words(line.when).left(16).replace(QLatin1Char('T'), QLatin1Char(' ')),
                         false);
        lines_->set_cell(row, 1, phrase(session::line_kinds()[static_cast<std::size_t>(line.kind)].label),
                         false);
        lines_->set_cell(row, 2, words(line.title), false);
        lines_->set_cell(row, 3, words(line.where), false);
        const bool by_hand = line.kind == session::LineKind::Note || line.kind == session::LineKind::Failure;
        lines_->set_cell(row, 4, by_hand ? words(line.text) : phrase(line.text), false);
    }
    lines_->resizeColumnsToContents();
    show_photo();
    count_->setText(shown < found_.size() ? tr("the newest %1 of %2").arg(shown).arg(found_.size())
                                          : tr("lines: %1").arg(shown));
}

void LogStation::open_line(int row) {
    const session::LogLine* at = line_at(row);
    if (!at)
        return;
    const session::LogLine line = *at; // showing another revision makes the lines anew
    if (line.revision != 0 && line.revision != context_.document.shown())
        context_.document.show(line.revision);
    emit link_wanted(place_of(line.kind));
}

void LogStation::remove() {
    const session::LogLine* at = line_at(lines_->currentRow());
    if (!at)
        return;
    const session::LogLine line = *at;
    if (!by_hand(line.kind)) {
        emit message(tr("%1 belongs to its own place and is not removed here.").arg(words(line.title)));
        return;
    }
    context_.document.remove_entry(EntryKind::Log, line.id, tr("Log line removed"));
}

void LogStation::navigate(const QString& location) {
    if (location == QStringLiteral("life"))
        tabs_->setCurrentWidget(life_);
    else if (location == QStringLiteral("between"))
        tabs_->setCurrentWidget(between_);
    else if (location == QStringLiteral("tell"))
        tabs_->setCurrentWidget(tell_);
    else if (location == QStringLiteral("note"))
        form_->begin();
}

void LogStation::take_files(const QStringList& paths) {
    form_->attach(paths);
    form_->begin();
}

void LogStation::stop() {
    life_->stop();
    between_->stop();
    tell_->stop();
    form_->stop();
}

QString LogStation::help() const {
    return tr(
        "<h3>Log</h3><p><b>Time line.</b> Revisions with their reasons and what changed, sheets, runs, "
        "pulls, plans, verdicts, calibrations, waivers, limits; and notes, engine use and failures that were "
        "added by hand. The newest stands first. Words are looked for in all of it, also by their "
        "beginnings; a part's lines are those that name it and those while it was fitted. <i>Enter</i> or a "
        "double click opens the place of a line; <i>Delete</i> removes one that was added by hand, and Undo "
        "brings it back.</p><p><b>Add.</b> Ctrl+Shift+N from anywhere. <i>Engine use</i>: speeds and "
        "seconds, or a logger's file with time and crank speed; it counts for every part that was in the "
        "engine then. A rig run counts by itself, for the valve that it turned. <i>Failure</i>: which part, "
        "how, where. <i>Photo or file</i> keeps one in the project; a line with a photo shows "
        "it.</p><p><b>Life of parts.</b> Cycles (two turns of the crank), hours, runs; the share of "
        "its life that a part has used, by the figures on its page of the shelf (<i>rated life</i>), of "
        "springs also by the stress of their wire at each speed by the full model, surge with it, and by "
        "loads that were read on the tester. Whichever is first stands there: ▲ at four fifths, ■ when it is "
        "over. The date is that of the last sixty days' pace.</p><p><b>Last good, first bad.</b> Which "
        "states of "
        "this build were good (pulled without a break, on the rig to what is wanted) and which bad (power "
        "breaks, short of what is wanted, something failed); what changed between the last good and the "
        "first bad one, what undoing each change alone would gain by the model, and what was done "
        "meanwhile. Choose other states where you know better.</p><p><b>For others.</b> <i>Report</i>: "
        "question, answer, evidence, what was changed and gained, what is next; leave out what is not for "
        "the reader; PDF, or HTML in one file; on the revision's last rig run or another one. <i>Pack</i>: "
        "what a maker of one kind of part needs to see, "
        "numbers, traces and a table to fill in, without the names of other makers' parts; <i>Take an "
        "answer</i> puts what comes back on the shelf.</p><p><b>Take care.</b> A wire's life is an "
        "estimate that scatters many times over: it warns of springs that are worked too hard, and promises "
        "nothing. Makers' intervals, local rules and a competent person's inspection come first; a part with "
        "an unknown past is new to nobody.</p><p>Keys: Ctrl+9 this station; Ctrl+Shift+N add; Ctrl+Shift+B "
        "last good, first bad; Ctrl+Shift+R report or pack; Ctrl+C copies "
        "the table.</p>");
}

} // namespace bathmos::app
