// The states of a build, which were good and which bad, and what lies between the last good and the first bad
// one.
#pragma once

#include "app/desk/background.h"
#include "app/desk/context.h"
#include "session/compare/good_bad.h"

#include <QWidget>
#include <memory>

class QComboBox;
class QLabel;
class QPushButton;

namespace bathmos::app {

class NumberTable;
class Refresher;

class GoodBadView : public QWidget {
    Q_OBJECT
  public:
    explicit GoodBadView(Context context, QWidget* parent = nullptr);
    /// Looks at the states anew where the records are others than those it has looked at.
    void refresh();
    void stop();
    bool looking() const { return work_.running(); }

  private:
    void look();
    void look_between();
    void fill_states();
    void fill_between();
    void show_words();
    session::GoodBad chosen() const;

    Context context_;
    QLabel* words_;
    NumberTable *states_, *changes_, *effects_, *lines_;
    QComboBox *good_, *bad_;
    QPushButton* stop_;
    Refresher* refresher_;
    std::shared_ptr<const session::SeenInput> looked_at_; ///< null: at nothing yet
    std::shared_ptr<const std::vector<session::SeenState>> seen_;
    std::shared_ptr<const session::BetweenStates> between_;
    QString failure_;
    Background work_;
};

} // namespace bathmos::app
