#include "app/stations/bench/sheet_files.h"

#include "app/stations/bench/tester_import_dialog.h"
#include "app/text/words.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/sheet/sheet_draft.h"
#include "io/sheet/sheet_file.h"
#include "io/text/encoding.h"

#include <QMenu>

namespace bathmos::app {

SheetFiles::SheetFiles(Context context, const Dialogs& dialogs,
                       std::function<std::optional<PagedSheet>()> shown, QWidget* parent)
    : QToolButton(parent), context_(context), dialogs_(dialogs), shown_(std::move(shown)) {
    setObjectName(QStringLiteral("bench_files"));
    setText(tr("Files and paper"));
    setPopupMode(QToolButton::InstantPopup);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    auto* menu = new QMenu(this);
    const auto add = [&](const char* name, const QString& text, auto what) {
        menu->addAction(text, this, what)->setObjectName(QLatin1String(name));
    };
    add("bench_import", tr("Import sheets or tester files…"),
        [this] { import_files(dialogs_.open_sheets()); });
    add("bench_export", tr("Save this sheet as a file…"), [this] { export_sheet(); });
    add("bench_pdf", tr("This sheet as PDF…"), [this] { export_page(false); });
    add("bench_blank", tr("A blank one of its kind as PDF…"), [this] { export_page(true); });
    setMenu(menu);
}

void SheetFiles::import_files(const QStringList& paths) {
    if (!context_.document.has_train())
        return;
    tester_columns_.clear();
    std::vector<Entry> sheets;
    for (const QString& path : paths) {
        try {
            if (!read_sheets(path, sheets))
                return emit message(tr("Nothing was imported."));
        } catch (const InputError& error) {
            return emit message(tr("Nothing was imported. %1").arg(phrase(error.what())));
        }
    }
    if (sheets.empty())
        return;
    const std::vector<Id> ids = context_.document.add_entries(
        EntryKind::Sheet, sheets, tr("%n sheet(s) imported", nullptr, static_cast<int>(sheets.size())));
    if (ids.empty())
        return; // why was told
    emit imported(ids.front());
    emit message(tr("%n sheet(s) imported.", nullptr, static_cast<int>(ids.size())));
}

bool SheetFiles::read_sheets(const QString& path, std::vector<Entry>& sheets) {
    if (!path.endsWith(QStringLiteral(".json"), Qt::CaseInsensitive))
        return read_tester(path, sheets);
    const std::string text = io::read_file(native(path), io::kMostSheetBytes);
    io::parse_sheet(text, io::shown_path(native(path))); // what is wrong with it is told before it is kept
    sheets.push_back(
        session::sheet_record(io::draft_of(text), {},
                              words(io::shown_path(native(path))).section(QLatin1Char('/'), -1).toStdString(),
                              {}, context_.document.shown()));
    return true;
}

// Files with the same columns are mapped once.
bool SheetFiles::read_tester(const QString& path, std::vector<Entry>& sheets) {
    const io::TableShape shape = io::sniff_table(native(path), io::kTesterTexts);
    std::vector<io::TestedSpring> springs;
    if (io::shape_key(shape) == tester_columns_) {
        springs = io::read_tester_file(native(path), shape, tester_);
    } else {
        TesterImportDialog dialog(path, this);
        if (dialog.exec() != QDialog::Accepted)
            return false;
        dialog.remember();
        tester_ = dialog.mapping();
        tester_columns_ = io::shape_key(shape);
        springs = dialog.springs();
    }
    const QString file = path.section(QLatin1Char('/'), -1);
    for (const io::TestedSpring& spring : springs) {
        bench::SheetDraft draft = session::new_sheet("spring", context_.document.train());
        draft.rows = io::sheet_of(spring).rows;
        const QString name =
            spring.serial.empty() ? file : tr("Spring %1, %2").arg(words(spring.serial), file);
        sheets.push_back(session::sheet_record(draft, {}, name.toStdString(), {}, context_.document.shown()));
    }
    return true;
}

void SheetFiles::export_sheet() {
    const auto sheet = shown_();
    if (!sheet)
        return emit message(tr("No sheet is shown: choose one, then save it."));
    const QString path = dialogs_.save_file(QStringLiteral("%1.sheet.json").arg(sheet->name));
    if (path.isEmpty())
        return;
    try {
        io::write_file(native(path), io::draft_text(sheet->draft));
    } catch (const InputError& error) {
        emit message(tr("The sheet was not saved. %1").arg(phrase(error.what())));
    }
}

void SheetFiles::export_page(bool blank) {
    const auto sheet = shown_();
    if (!sheet)
        return emit message(tr("No sheet is shown: choose one, or begin it."));
    const QString path = dialogs_.save_file(QStringLiteral("%1.pdf").arg(sheet->name));
    if (!path.isEmpty() && !write_text_pdf(path, sheet->name, sheet_page(*sheet, context_.units, blank)))
        emit message(tr("The page was not written: %1 cannot be. Choose another place.").arg(path));
}

} // namespace bathmos::app
