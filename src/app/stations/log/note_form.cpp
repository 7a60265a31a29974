#include "app/stations/log/note_form.h"

#include "app/text/words.h"
#include "app/widgets/number_field.h"
#include "core/problem/input_error.h"
#include "io/file/content_hash.h"
#include "io/file/safe_file.h"
#include "io/life/use_file.h"

#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <algorithm>

namespace bathmos::app {

namespace {

QLineEdit* field(const char* name, const QString& what, const QString& hint = {}) {
    auto* out = new QLineEdit;
    out->setObjectName(QLatin1String(name));
    out->setAccessibleName(what);
    out->setPlaceholderText(hint);
    return out;
}

QComboBox* choice(const char* name, const QString& what) {
    auto* out = new QComboBox;
    out->setObjectName(QLatin1String(name));
    out->setAccessibleName(what);
    out->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    out->setMinimumContentsLength(12);
    return out;
}

} // namespace

NoteForm::NoteForm(Context context, const Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), context_(context), dialogs_(dialogs), rows_(new QFormLayout(this)) {
    rows_->setContentsMargins(0, 0, 0, 0);
    rows_->setFieldGrowthPolicy(QFormLayout::AllNonFixedFieldsGrow);
    kind_ = choice("note_kind", tr("What is added"));
    for (const session::LineKind kind :
         {session::LineKind::Note, session::LineKind::Use, session::LineKind::Failure})
        kind_->addItem(phrase(session::line_kinds()[static_cast<std::size_t>(kind)].label),
                       static_cast<int>(kind));
    connect(kind_, &QComboBox::currentIndexChanged, this, &NoteForm::show_kind);
    part_ = choice("note_part", tr("Part of the shelf"));
    mode_ = choice("note_mode", tr("How it failed"));
    for (const session::FailureMode& mode : session::failure_modes())
        mode_->addItem(phrase(mode.label), words(mode.key));
    title_ = field("note_title", tr("Title"));
    text_ = field("note_text", tr("Words"), tr("what was seen or done, and why"));
    place_ = field("note_place", tr("Place"), tr("cylinder 3, root of the groove"));
    use_ = field("note_use", tr("Speeds and seconds"), tr("7000:120 6500:300"));
    use_->setToolTip(tr("Crank speed and seconds with a colon between, as many as there were"));
    runs_ = field("note_runs", tr("Runs"), tr("1"));
    when_ = field("note_when", tr("Date"), tr("now; else 2026-02-27"));
    logger_ = new QPushButton(tr("Logger's file…"));
    logger_->setObjectName(QStringLiteral("note_logger"));
    connect(logger_, &QPushButton::clicked, this, &NoteForm::read_logger);
    rows_->addRow(tr("Add"), kind_);
    rows_->addRow(tr("Title"), title_);
    rows_->addRow(tr("Words"), text_);
    rows_->addRow(tr("Part"), part_);
    rows_->addRow(tr("Failed by"), mode_);
    rows_->addRow(tr("Place"), place_);
    rows_->addRow(tr("rev/min : s"), use_);
    rows_->addRow(QString(), logger_);
    rows_->addRow(tr("Runs"), runs_);
    rows_->addRow(tr("Date"), when_);
    files_ = new QPushButton;
    files_->setObjectName(QStringLiteral("note_files"));
    connect(files_, &QPushButton::clicked, this, [this] { attach(dialogs_.open_files()); });
    rows_->addRow(tr("Files"), files_);
    add_ = new QPushButton(tr("Add to the log"));
    add_->setObjectName(QStringLiteral("note_add"));
    connect(add_, &QPushButton::clicked, this, &NoteForm::add);
    rows_->addRow(QString(), add_);
    for (QLineEdit* one : {title_, text_, place_, use_, runs_, when_})
        connect(one, &QLineEdit::returnPressed, this, &NoteForm::add);
    show_kind();
    show_reading();
}

session::LineKind NoteForm::kind() const {
    return static_cast<session::LineKind>(kind_->currentData().toInt());
}

void NoteForm::show_kind() {
    const bool use = kind() == session::LineKind::Use, failure = kind() == session::LineKind::Failure;
    for (QWidget* one :
         {static_cast<QWidget*>(use_), static_cast<QWidget*>(logger_), static_cast<QWidget*>(runs_)})
        rows_->setRowVisible(one, use);
    for (QWidget* one : {static_cast<QWidget*>(mode_), static_cast<QWidget*>(place_)})
        rows_->setRowVisible(one, failure);
    rows_->setRowVisible(part_, !use);
}

void NoteForm::show_parts() {
    const QVariant before = part_->currentData();
    part_->clear();
    part_->addItem(tr("none"), 0);
    for (const auto& [id, part] : context_.document.project().parts)
        part_->addItem(words(part.serial.empty() ? part.name : part.name + " " + part.serial),
                       static_cast<qlonglong>(id));
    part_->setCurrentIndex(std::max(0, part_->findData(before)));
}

void NoteForm::begin() {
    title_->setFocus();
    title_->selectAll();
}

void NoteForm::read_logger() {
    const QString path = dialogs_.open_logger();
    if (path.isEmpty())
        return;
    auto read = std::make_shared<life::LoggedUse>();
    work_.start([read, path](const std::stop_token& stop,
                             const Background::Post&) { *read = io::read_use(native(path), {}, stop); },
                [this, read, path](const QString& failure) {
                    if (failure.isEmpty())
                        take(*read, path.section(QLatin1Char('/'), -1));
                    else
                        emit message(failure);
                    show_reading();
                });
    show_reading();
}

void NoteForm::take(const life::LoggedUse& read, const QString& name) {
    logged_ = read.use;
    if (title_->text().isEmpty())
        title_->setText(name);
    QStringList left;
    if (read.gaps > 0)
        left << tr("%1 gaps of together %2 s, while nobody was listening")
                    .arg(read.gaps)
                    .arg(fixed(read.left_out_s, 0));
    if (read.lost > 0)
        left << tr("%1 readings that no engine has").arg(read.lost);
    if (!left.isEmpty())
        emit message(tr("Left out: %1.").arg(left.join(QStringLiteral("; "))));
}

void NoteForm::show_reading() {
    const bool reading = work_.running();
    logger_->setText(reading                     ? tr("Reading …")
                     : logged_.classes().empty() ? tr("Logger's file…")
                                                 : tr("%1 cycles read").arg(fixed(logged_.cycles(), 0)));
    add_->setEnabled(!reading);
    QStringList names;
    for (const QString& path : attached_)
        names << path.section(QLatin1Char('/'), -1);
    files_->setText(names.isEmpty() ? tr("Photo or file…") : names.join(QStringLiteral(", ")));
}

void NoteForm::attach(const QStringList& paths) {
    attached_ = paths;
    show_reading();
}

void NoteForm::stop() {
    work_.stop();
    show_reading();
}

// Throws InputError for what is no speed and time.
session::LogNote NoteForm::note() const {
    session::LogNote out;
    out.kind = kind();
    out.title = title_->text().trimmed().toStdString();
    out.text = text_->text().trimmed().toStdString();
    out.when = when_->text().trimmed().toStdString();
    out.revision = context_.document.shown();
    if (out.kind != session::LineKind::Use)
        out.part = static_cast<Id>(part_->currentData().toLongLong());
    out.mode = mode_->currentData().toString().toStdString();
    out.place = place_->text().trimmed().toStdString();
    if (out.kind != session::LineKind::Use)
        return out;
    out.use = logged_;
    for (const QString& one : use_->text().split(QLatin1Char(' '), Qt::SkipEmptyParts)) {
        const auto rpm = parse_number(one.section(QLatin1Char(':'), 0, 0)),
                   seconds = parse_number(one.section(QLatin1Char(':'), 1));
        if (!rpm || !seconds)
            throw InputError({"", "speeds and seconds", "\"" + one.toStdString() + "\" is none",
                              "speed:seconds, such as 7000:120"});
        out.use.add(*rpm, *seconds);
    }
    if (!runs_->text().isEmpty()) {
        const auto runs = parse_number(runs_->text());
        if (!runs)
            throw InputError(
                {"", "runs", "\"" + runs_->text().toStdString() + "\" is no number", "0 or more"});
        out.runs = *runs;
    }
    return out;
}

void NoteForm::add() {
    if (work_.running())
        return emit message(tr("The logger's file is still being read."));
    try {
        session::LogNote adding = note();
        std::vector<std::string> files;
        for (const QString& path : attached_) {
            files.push_back(io::read_file(native(path), io::kMostKeptBytes));
            adding.files.push_back(
                {io::content_hash(files.back()), path.section(QLatin1Char('/'), -1).toStdString()});
        }
        const Entry entry = session::log_entry(adding, context_.document.project());
        for (const std::string& file : files) // once nothing more can refuse it
            context_.document.add_file(file);
        context_.document.add_entry(EntryKind::Log, entry, tr("Log: %1").arg(words(entry.name)));
        clear();
    } catch (const InputError& error) {
        emit message(tr("Nothing was added. %1").arg(phrase(error.what())));
    }
}

void NoteForm::clear() {
    for (QLineEdit* one : {title_, text_, place_, use_, runs_, when_})
        one->clear();
    logged_ = {};
    attached_.clear();
    show_reading();
    title_->setFocus();
}

} // namespace bathmos::app
