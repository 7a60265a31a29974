// The verdict of the revision in hand, made in the background, and what would help.
#pragma once

#include "app/desk/background.h"
#include "app/desk/document.h"
#include "session/cases/change_study.h"

#include <QObject>
#include <memory>
#include <optional>

namespace bathmos::app {

/// A verdict with all it was made from.
struct MadeVerdict {
    session::CaseInput input;
    CaseFile file;
    Verdict verdict;
};

class VerdictRunner : public QObject {
    Q_OBJECT
  public:
    explicit VerdictRunner(Document& document, QObject* parent = nullptr);

    const MadeVerdict* made() const { return made_.get(); }
    /// The records or the revision in hand differ from those it was made from.
    bool old() const { return old_; }
    bool weighing() const { return weigh_.running(); }
    bool trying() const { return study_work_.running(); }
    double progress() const { return progress_; }
    QString failure() const { return failure_; }

    const std::vector<TrainChange>& changes() const { return changes_; }
    const std::vector<ChangeOutcome>& singles() const { return singles_; }
    const std::vector<ChangeOutcome>& combinations() const { return combinations_; }

    void weigh();
    /// Tries every change and searches combinations; results arrive one by one.
    void try_changes();
    void stop();

  signals:
    void changed();
    void outcomes_changed();

  private:
    void take(std::shared_ptr<const MadeVerdict> made);
    void judge_age();
    void forget_study();

    Document& document_;
    std::shared_ptr<const MadeVerdict> made_;
    bool old_ = false;
    double progress_ = 0;
    QString failure_;
    std::vector<TrainChange> changes_;
    std::vector<ChangeOutcome> singles_, combinations_;
    Background weigh_, study_work_;
};

} // namespace bathmos::app
