// Station Bench: guided sheets for what is measured on the bench, kept raw as they are typed, with what they
// say and what they would change of the train.
#pragma once

#include "app/desk/dialogs.h"
#include "app/desk/station.h"
#include "app/stations/bench/sheet_page.h"
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
class SheetFiles;
class SheetForm;
class SheetLimit;

class BenchStation : public Station {
    Q_OBJECT
  public:
    BenchStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Bench"); }
    QString help() const override;
    /// "new/spring", "sheet/12".
    void navigate(const QString& location) override;
    void stop() override;
    void take_files(const QStringList& paths) override;

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
    std::set<std::string> ticked() const;
    void begin(const QString& kind);
    void choose(Id sheet);
    void keep(const bench::SheetDraft& draft);
    void take_over();
    void remove();
    std::optional<PagedSheet> shown() const;
    QString part() const;
    const Entry* record() const;

    const Dialogs& dialogs_;
    QStackedLayout* pages_;
    SheetFiles* files_ = nullptr;
    QComboBox *kind_ = nullptr, *part_ = nullptr, *against_ = nullptr;
    QListWidget* sheets_ = nullptr;
    SheetForm* form_ = nullptr;
    SheetLimit* limit_ = nullptr;
    QLabel *says_ = nullptr, *differs_ = nullptr, *told_ = nullptr, *closes_ = nullptr;
    NumberTable* changes_ = nullptr;
    Plot* picture_ = nullptr;
    int curve_ = 0, read_ = 0, other_read_ = 0;
    QPushButton *take_over_ = nullptr, *remove_ = nullptr;
    Refresher* refresher_ = nullptr;
    Id sheet_ = 0;
    session::JudgedSheet said_;
    std::optional<session::JudgedSheet> other_;     ///< the sheet it is set against
    std::set<std::pair<Id, std::string>> left_out_; ///< changes that were unticked, by sheet and key
    bool filling_ = false;
};

} // namespace bathmos::app
