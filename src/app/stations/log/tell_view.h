// For others: a report of the revision in hand, or a pack for the maker of one kind of part; looked at before
// it is written.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "app/desk/dialogs.h"
#include "session/pack/pack.h"

#include <QWidget>
#include <memory>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QPlainTextEdit;
class QPushButton;
class QTextBrowser;
class QTextDocument;

namespace bathmos::app {

class Refresher;

class TellView : public QWidget {
    Q_OBJECT
  public:
    TellView(Context context, const Dialogs& dialogs, QWidget* parent = nullptr);
    ~TellView() override;
    /// What is shown is of the records as they stand, or says that it is not.
    void refresh();
    /// Of what is being made.
    void stop();
    bool making() const { return work_.running(); }
    /// For tests and pictures: the date that papers bear, 2026-02-27, in place of today's.
    void set_today(const QString& date) { today_ = date; }

  signals:
    void message(const QString& text);

  private:
    struct Made; // judged, with the project as it was then
    QWidget* make_form();
    void fill_runs();
    Id chosen_run() const { return run_->currentData().toLongLong(); } ///< 0: the last
    void make();
    void show_kind();
    void show_paper();
    void show_words();
    std::optional<session::Audience> audience() const; ///< empty: a report
    session::ReportAsked report_asked() const;
    session::PackAsked pack_asked() const;
    std::string date() const;
    void save_paper(const QString& ending);
    void save_pack(bool zip);
    void write_pack(const session::Pack& pack, const session::PackAsked& asked, bool zip);
    void take_answer();

    Context context_;
    const Dialogs& dialogs_;
    QComboBox *what_, *run_;
    QPlainTextEdit* question_;
    QLineEdit* who_;
    QCheckBox* english_;
    QListWidget* chapters_;
    QPushButton *make_, *pdf_, *html_, *zip_, *folder_, *answer_;
    QLabel* words_;
    QTextBrowser* page_;
    std::unique_ptr<QTextDocument> document_;
    Refresher* refresher_;
    std::shared_ptr<const Made> made_;
    QString today_, failure_;
    double progress_ = 0;
    Background work_;
};

} // namespace bathmos::app
