// Station Bench: guided sheets for what is measured on the bench, kept raw as they are typed, with what they
// say and what they would change of the train.
#pragma once

#include "app/desk/background.h"
#include "app/desk/dialogs.h"
#include "app/desk/station.h"
#include "io/sheet/tester_file.h"
#include "session/bench/sheet_record.h"

#include <set>
#include <utility>

class QComboBox;
class QLabel;
class QListWidget;
class QPushButton;
class QStackedLayout;

namespace bathmos::app {

class NumberTable;
class Plot;
class Refresher;
class SheetForm;

class BenchStation : public Station {
    Q_OBJECT
  public:
    BenchStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Bench"); }
    QString help() const override;
    /// "new/spring", "sheet/12".
    void navigate(const QString& location) override;
    void stop() override { work_.stop(); }

  private:
    QWidget* make_list();
    QWidget* make_answer();
    void refresh();
    void fill_list();
    void fill_parts();
    void fill_answer();
    void draw_picture();
    void fill_against();
    void judge_other();
    void ask_limit();
    std::set<std::string> ticked() const;
    void begin(const QString& kind);
    void choose(Id sheet);
    void keep(const bench::SheetDraft& draft);
    void take_over();
    void remove();
    void import_sheets();
    /// Sheets of one file: a sheet file, or springs of a tester; false where the person gave up.
    bool read_sheets(const QString& path, std::vector<Entry>& sheets);
    bool read_tester(const QString& path, std::vector<Entry>& sheets);
    void export_sheet();
    void export_page(bool blank);
    QString part() const;
    const Entry* record() const;

    const Dialogs& dialogs_;
    std::string tester_columns_; ///< of the file that was mapped last in this import
    io::TesterMapping tester_;
    QStackedLayout* pages_;
    QComboBox *kind_ = nullptr, *part_ = nullptr, *against_ = nullptr;
    QListWidget* sheets_ = nullptr;
    SheetForm* form_ = nullptr;
    QLabel *limit_ = nullptr, *says_ = nullptr, *differs_ = nullptr, *told_ = nullptr, *closes_ = nullptr;
    NumberTable* changes_ = nullptr;
    Plot* picture_ = nullptr;
    int curve_ = 0, read_ = 0, other_read_ = 0;
    QPushButton *take_over_ = nullptr, *remove_ = nullptr;
    Refresher* refresher_ = nullptr;
    Id sheet_ = 0;
    session::JudgedSheet said_;
    Train asked_;                                   ///< what the limit below is of
    QString limit_said_;                            ///< with what is ticked taken over
    std::optional<session::JudgedSheet> other_;     ///< the sheet it is set against
    std::set<std::pair<Id, std::string>> left_out_; ///< changes that were unticked, by sheet and key
    bool filling_ = false;
    Background work_;
};

} // namespace bathmos::app
