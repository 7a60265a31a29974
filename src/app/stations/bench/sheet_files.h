// Sheets in and out: sheet files and files of a spring tester come in, the sheet that is shown goes out as a
// file or on paper.
#pragma once

#include "app/desk/context.h"
#include "app/desk/dialogs.h"
#include "app/stations/bench/sheet_page.h"
#include "io/sheet/tester_file.h"

#include <QToolButton>
#include <functional>
#include <optional>

namespace bathmos::app {

class SheetFiles : public QToolButton {
    Q_OBJECT
  public:
    /// `shown`: the sheet to write; empty where none is shown.
    SheetFiles(Context context, const Dialogs& dialogs, std::function<std::optional<PagedSheet>()> shown,
               QWidget* parent = nullptr);

    /// Sheet files, and files of a spring tester.
    void import_files(const QStringList& paths);

  signals:
    void message(const QString& text);
    void imported(Id first);

  private:
    /// Sheets of one file: a sheet file, or springs of a tester; false where the person gave up.
    bool read_sheets(const QString& path, std::vector<Entry>& sheets);
    bool read_tester(const QString& path, std::vector<Entry>& sheets);
    void export_sheet();
    void export_page(bool blank);

    Context context_;
    const Dialogs& dialogs_;
    std::function<std::optional<PagedSheet>()> shown_;
    std::string tester_columns_; ///< of the file that was mapped last in this import
    io::TesterMapping tester_;
};

} // namespace bathmos::app
