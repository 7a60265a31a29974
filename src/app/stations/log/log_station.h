// Station Log: everything that was done, one line each; how old the parts are; what is added by hand.
#pragma once

#include "app/desk/dialogs.h"
#include "app/desk/station.h"
#include "session/log/time_line.h"

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QStackedLayout;
class QTabWidget;

namespace bathmos::app {

class GoodBadView;
class LifeView;
class NoteForm;
class NumberTable;
class Refresher;
class TellView;

class LogStation : public Station {
    Q_OBJECT
  public:
    LogStation(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    QString title() const override { return tr("Log"); }
    QString help() const override;
    /// "note": the form waits for words; "life": the ages of the parts; "between": last good and first bad;
    /// "tell": report and packs.
    void navigate(const QString& location) override;
    void stop() override;
    /// They go with the next line.
    void take_files(const QStringList& paths) override;
    LifeView& life() { return *life_; }
    GoodBadView& between() { return *between_; }
    TellView& tell() { return *tell_; }

  signals:
    void link_wanted(const QString& link); ///< "train", "rig"

  private:
    QWidget* make_filters();
    QWidget* make_side();
    void refresh();
    void fill_parts();
    void find();
    void open_line(int row);
    void remove();
    const session::LogLine* line_at(int row) const; ///< null where there is none
    void show_photo();
    void save_files();

    QStackedLayout* pages_;
    QLineEdit* words_ = nullptr;
    QComboBox *kinds_ = nullptr, *parts_ = nullptr, *builds_ = nullptr;
    QLabel* count_ = nullptr;
    QTabWidget* tabs_ = nullptr;
    NumberTable* lines_ = nullptr;
    LifeView* life_ = nullptr;
    GoodBadView* between_ = nullptr;
    TellView* tell_ = nullptr;
    NoteForm* form_ = nullptr;
    QWidget* side_ = nullptr;
    QLabel* photo_ = nullptr;
    QPushButton* save_files_ = nullptr;
    const Dialogs& dialogs_;
    Refresher* refresher_ = nullptr;
    std::optional<session::Log> log_;
    std::vector<std::size_t> found_;
};

} // namespace bathmos::app
