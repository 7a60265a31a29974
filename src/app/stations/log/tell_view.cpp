#include "app/stations/log/tell_view.h"

#include "app/text/words.h"
#include "app/widgets/refresher.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/paper/chart_svg.h"
#include "io/paper/paper_html.h"
#include "print/paper_document.h"
#include "print/paper_pdf.h"
#include "session/pack/answer.h"
#include "session/pack/pack_view.h"
#include "session/rig/run_set.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QSignalBlocker>
#include <QSplitter>
#include <QTextBrowser>
#include <QTextDocument>
#include <QVBoxLayout>

namespace bathmos::app {

namespace {

constexpr int kReport = -1;   // of the box that says what is made; else the audience's number
constexpr int kForm_px = 290; // of the form beside the page
constexpr int kMargin_px = 16;

// What is made speaks as the window does, unless it goes to somebody else.
paper::Language language_of_page(bool english) {
    if (english)
        return {};
    return {language_spoken().toStdString(), QLocale().decimalPoint().at(0).toLatin1(),
            [](std::string_view text) { return paper_phrase(text).toStdString(); }};
}

QPushButton* button(const char* name, const QString& text, QLayout* into) {
    auto* out = new QPushButton(text);
    out->setObjectName(QLatin1String(name));
    into->addWidget(out);
    return out;
}

} // namespace

struct TellView::Made {
    session::ReportInput input;
    session::ReportFacts facts;
    Id run = 0; ///< that was chosen; 0: the last
};

TellView::TellView(Context context, const Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), context_(context), dialogs_(dialogs) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(4, 6, 4, 4);
    auto* split = new QSplitter(Qt::Horizontal);
    split->addWidget(make_form());
    page_ = new QTextBrowser;
    page_->setObjectName(QStringLiteral("tell_page"));
    page_->setAccessibleName(tr("The page as it will be"));
    page_->setOpenLinks(false);
    page_->setMinimumWidth(io::kChartWidth + 60);
    page_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    QPalette paper = page_->palette(); // paper is white, whatever the window is
    paper.setColor(QPalette::Base, Qt::white);
    paper.setColor(QPalette::Text, QColor(0x1b, 0x2a, 0x41));
    page_->setPalette(paper);
    split->addWidget(page_);
    split->setSizes({kForm_px, 900});
    split->setStretchFactor(1, 1);
    layout->addWidget(split, 1);
    refresher_ = new Refresher(this, kUnhurried_ms, [this] { show_paper(); });
    const auto ask = [this] { refresher_->ask(); };
    connect(question_, &QPlainTextEdit::textChanged, this, ask);
    connect(who_, &QLineEdit::textChanged, this, ask);
    connect(chapters_, &QListWidget::itemChanged, this, ask);
    connect(english_, &QCheckBox::toggled, this, ask);
    connect(&context_.units, &DisplayUnits::changed, this, ask);
    show_kind();
}

TellView::~TellView() = default;

QWidget* TellView::make_form() {
    auto* box = new QWidget;
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 6, 0);
    what_ = new QComboBox;
    what_->setObjectName(QStringLiteral("tell_what"));
    what_->setAccessibleName(tr("What is made"));
    what_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    what_->setMinimumContentsLength(8);
    what_->addItem(tr("Report"), kReport);
    for (const session::AudienceInfo& one : session::audiences())
        what_->addItem(tr("Pack for the %1").arg(phrase(one.label)), static_cast<int>(one.audience));
    connect(what_, &QComboBox::currentIndexChanged, this, &TellView::show_kind);
    column->addWidget(what_);
    run_ = new QComboBox;
    run_->setObjectName(QStringLiteral("tell_run"));
    run_->setAccessibleName(tr("Rig run that it rests on"));
    run_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    run_->setMinimumContentsLength(8);
    connect(run_, &QComboBox::currentIndexChanged, this, &TellView::show_words);
    column->addWidget(run_);
    question_ = new QPlainTextEdit;
    question_->setObjectName(QStringLiteral("tell_question"));
    question_->setAccessibleName(tr("The question in your words"));
    question_->setTabChangesFocus(true);
    question_->setMaximumHeight(96);
    column->addWidget(question_);
    who_ = new QLineEdit;
    who_->setObjectName(QStringLiteral("tell_who"));
    who_->setAccessibleName(tr("Who says so"));
    who_->setPlaceholderText(tr("who says so"));
    column->addWidget(who_);
    english_ = new QCheckBox(tr("The page in English"));
    english_->setObjectName(QStringLiteral("tell_english"));
    english_->setToolTip(tr("For somebody who does not read the language of this window"));
    column->addWidget(english_);
    if (language_spoken() == QStringLiteral("en"))
        english_->hide();
    chapters_ = new QListWidget;
    chapters_->setObjectName(QStringLiteral("tell_chapters"));
    chapters_->setAccessibleName(tr("Chapters"));
    for (const session::ChapterInfo& one : session::chapters()) {
        auto* item = new QListWidgetItem(phrase(one.label), chapters_);
        item->setFlags(item->flags() | Qt::ItemIsUserCheckable);
        item->setCheckState(Qt::Checked);
    }
    column->addWidget(chapters_);
    make_ = button("tell_make", tr("Make it"), column);
    connect(make_, &QPushButton::clicked, this, [this] { making() ? stop() : make(); });
    pdf_ = button("tell_pdf", tr("Save as PDF…"), column);
    html_ = button("tell_html", tr("Save as HTML…"), column);
    zip_ = button("tell_zip", tr("Save as zip…"), column);
    folder_ = button("tell_folder", tr("Save as a folder…"), column);
    answer_ = button("tell_answer", tr("Take an answer…"), column);
    connect(pdf_, &QPushButton::clicked, this, [this] { save_paper(QStringLiteral("pdf")); });
    connect(html_, &QPushButton::clicked, this, [this] { save_paper(QStringLiteral("html")); });
    connect(zip_, &QPushButton::clicked, this, [this] { save_pack(true); });
    connect(folder_, &QPushButton::clicked, this, [this] { save_pack(false); });
    connect(answer_, &QPushButton::clicked, this, &TellView::take_answer);
    words_ = new QLabel;
    words_->setObjectName(QStringLiteral("tell_words"));
    words_->setWordWrap(true);
    words_->setTextFormat(Qt::PlainText);
    column->addWidget(words_);
    column->addStretch(1);
    return box;
}

std::optional<session::Audience> TellView::audience() const {
    const int chosen = what_->currentData().toInt();
    return chosen == kReport ? std::nullopt : std::optional(static_cast<session::Audience>(chosen));
}

void TellView::show_kind() {
    const bool pack = audience().has_value();
    for (QWidget* one : std::initializer_list<QWidget*>{chapters_, pdf_, html_})
        one->setVisible(!pack);
    for (QWidget* one : std::initializer_list<QWidget*>{zip_, folder_, answer_})
        one->setVisible(pack);
    question_->setPlaceholderText(pack ? tr("what the maker is asked, in your words")
                                       : tr("the question in your words; else that of the verdict"));
    refresher_->ask();
    show_words();
}

// The last run, or another of the revision in hand.
void TellView::fill_runs() {
    const Project& project = context_.document.project();
    const Id revision = context_.document.shown();
    QStringList labels;
    QVariantList ids;
    if (const auto at = project.revisions.find(revision); at != project.revisions.end())
        for (const Id run : session::runs_of(project, at->second.build, true)) {
            const Entry& entry = project.of(EntryKind::RigRun).at(run);
            if (entry.revision != revision || entry.traces.empty())
                continue;
            labels.push_back(tr("run %1: %2").arg(run).arg(words(entry.name)));
            ids.push_back(QVariant::fromValue(qlonglong(run)));
        }
    labels.push_front(labels.isEmpty() ? tr("no rig run of this revision") : tr("its last rig run"));
    ids.push_front(QVariant::fromValue(qlonglong(0)));
    bool same = run_->count() == labels.size();
    for (int i = 0; same && i < run_->count(); ++i)
        same = run_->itemText(i) == labels[i] && run_->itemData(i) == ids[i];
    if (same)
        return;
    const QVariant chosen = run_->currentData();
    const QSignalBlocker quiet(run_);
    run_->clear();
    for (qsizetype i = 0; i < labels.size(); ++i)
        run_->addItem(labels[i], ids[i]);
    run_->setCurrentIndex(std::max(0, run_->findData(chosen)));
    run_->setEnabled(run_->count() > 1);
}

void TellView::refresh() {
    fill_runs();
    show_words();
}

void TellView::stop() {
    work_.stop();
    show_words();
}

std::string TellView::date() const {
    return today_.isEmpty() ? io::now_text().substr(0, 10) : today_.toStdString();
}

session::ReportAsked TellView::report_asked() const {
    session::ReportAsked out{question_->toPlainText().trimmed().toStdString(),
                             who_->text().trimmed().toStdString(),
                             date(),
                             {},
                             context_.units.choice(),
                             language_of_page(english_->isChecked())};
    for (int i = 0; i < chapters_->count(); ++i)
        if (chapters_->item(i)->checkState() != Qt::Checked)
            out.without.insert(session::chapters()[static_cast<std::size_t>(i)].chapter);
    return out;
}

session::PackAsked TellView::pack_asked() const {
    return {audience().value_or(session::Audience::Spring),
            question_->toPlainText().trimmed().toStdString(),
            who_->text().trimmed().toStdString(),
            date(),
            context_.units.choice(),
            language_of_page(english_->isChecked())};
}

void TellView::make() {
    Document& document = context_.document;
    if (!document.rigid())
        return;
    failure_.clear();
    progress_ = 0;
    const auto trace = [&](Id id) { return document.trace(id); };
    try {
        session::CaseInput file = session::gather_case(document.project(), document.shown(), trace);
        file.range = document.range();
        auto made = std::make_shared<Made>();
        made->run = chosen_run();
        if (made->run != 0)
            session::rest_on(file, made->run, trace);
        made->input = session::gather_report(std::move(file), trace);
        work_.start(
            [this, made, &results = document.results()](const std::stop_token& stop,
                                                        const Background::Post& post) {
                const auto progress = [&](double share) {
                    post([this, share] {
                        progress_ = share;
                        show_words();
                    });
                };
                made->facts = session::study_report(made->input, results, progress, stop);
            },
            [this, made](const QString& failure) {
                failure_ = failure;
                if (failure.isEmpty())
                    made_ = made;
                show_paper();
            });
    } catch (const InputError& error) {
        failure_ = phrase(error.what());
    }
    show_words();
}

void TellView::show_paper() {
    show_words();
    if (!made_)
        return;
    const paper::Paper paper =
        audience() ? session::pack_page(session::PackView(made_->input, made_->facts, pack_asked()))
                   : session::report_of(made_->input, made_->facts, report_asked());
    auto next = print::document_of(io::printed(paper, date()));
    next->setDocumentMargin(kMargin_px);
    page_->setDocument(next.get());
    document_ = std::move(next); // the one before goes only now
}

void TellView::show_words() {
    const bool there = context_.document.rigid() != nullptr;
    const bool old =
        made_ && !(made_->input.of.revision == context_.document.shown() && made_->run == chosen_run() &&
                   session::same_evidence(made_->input.of.project, context_.document.project()));
    make_->setText(making() ? tr("Stop (%1 %)").arg(fixed(100 * progress_, 0))
                            : tr("Make it (%1)")
                                  .arg(old     ? tr("old")
                                       : made_ ? tr("again")
                                               : tr("seconds")));
    make_->setEnabled(there);
    const bool ready = made_ && !old && !making();
    for (QPushButton* one : {pdf_, html_, zip_, folder_})
        one->setEnabled(ready);
    answer_->setEnabled(there);
    if (!failure_.isEmpty())
        words_->setText(failure_);
    else if (!there)
        words_->setText(tr("This train cannot be run yet."));
    else if (!made_)
        words_->setText(tr("Judges the revision in hand by everything on record, then shows the page."));
    else if (old)
        words_->setText(tr("Records or run have changed since: what is shown is old."));
    else if (audience())
        words_->setText(tr("Names and serials of other makers' parts are left out; what was masked is told "
                           "when it is saved."));
    else
        words_->setText({});
}

void TellView::save_paper(const QString& ending) {
    if (!made_)
        return;
    const paper::Paper paper = session::report_of(made_->input, made_->facts, report_asked());
    const QString path =
        dialogs_.save_file(words(paper.title).remove(QLatin1Char('/')) + tr(" report.") + ending);
    if (path.isEmpty())
        return;
    try {
        if (ending == QStringLiteral("pdf"))
            print::write_paper_pdf(native(path), io::printed(paper, date()));
        else
            io::write_file(native(path), io::paper_html(paper));
        emit message(tr("The report was written: %1").arg(QFileInfo(path).fileName()));
    } catch (const InputError& error) {
        emit message(phrase(error.what()));
    }
}

void TellView::save_pack(bool zip) {
    if (!made_ || !audience() || making())
        return;
    auto pack = std::make_shared<session::Pack>();
    const session::PackAsked asked = pack_asked();
    progress_ = 0;
    work_.start(
        [made = made_, asked, pack](const std::stop_token&, const Background::Post&) {
            *pack = session::pack_of(made->input, made->facts, asked);
        },
        [this, pack, asked, zip](const QString& failure) {
            show_words();
            if (failure.isEmpty())
                write_pack(*pack, asked, zip);
            else
                emit message(failure);
        });
    show_words();
}

void TellView::write_pack(const session::Pack& pack, const session::PackAsked& asked, bool zip) {
    const QString name = QStringLiteral("pack-%1").arg(
        words(session::audiences()[static_cast<std::size_t>(asked.audience)].key));
    const QString path =
        zip ? dialogs_.save_file(name + QStringLiteral(".zip")) : dialogs_.choose_folder(name);
    if (path.isEmpty())
        return;
    try {
        if (zip)
            io::write_pack_zip(native(path), pack.files, asked.date);
        else
            io::write_pack_folder(native(path), pack.files);
        QStringList told = {tr("The pack was written: %1").arg(QFileInfo(path).fileName())};
        for (const std::string& one : pack.told)
            told << words(one);
        words_->setText(told.join(QLatin1Char('\n')));
        emit message(told.front());
    } catch (const InputError& error) {
        emit message(phrase(error.what()));
    }
}

void TellView::take_answer() {
    const QString path = dialogs_.open_table();
    if (path.isEmpty())
        return;
    try {
        const session::Answer answer =
            session::answer_of(context_.document.project(), io::read_file(native(path)), path.toStdString());
        const QString file = QFileInfo(path).fileName();
        if (!answer.parts.empty())
            context_.document.take_answer(answer, session::answer_note(answer, file.toStdString(),
                                                                       who_->text().trimmed().toStdString(),
                                                                       io::now_text()));
        words_->setText(tr("%1: %2 new on the shelf, %3 known already")
                            .arg(file)
                            .arg(answer.parts.size())
                            .arg(answer.known));
    } catch (const InputError& error) {
        emit message(phrase(error.what()));
    }
}

} // namespace bathmos::app
