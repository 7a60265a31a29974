// The dyno pulls of the build in hand, analysed in the background: by state, corrected or as recorded.
#pragma once

#include "app/desk/background.h"
#include "app/desk/document.h"
#include "session/dyno/pull_states.h"

#include <QObject>
#include <memory>
#include <optional>
#include <vector>

namespace bathmos::app {

using session::DynoState;
using session::ShownPull;

class DynoSession : public QObject {
    Q_OBJECT
  public:
    explicit DynoSession(Document& document, QObject* parent = nullptr);

    const std::vector<DynoState>& states() const { return states_; }
    /// That of the revision in hand's latest pulls unless another is chosen; -1 for none.
    int state() const { return choice_.state; }
    /// What it is compared with; -1 for none.
    int against() const { return choice_.against; }
    void choose(int state, int against);
    const DynoState* shown() const { return at(choice_.state); }
    const DynoState* compared() const { return at(choice_.against); }
    std::optional<StateDifference> change() const;

    /// All pulls of the build in hand, shown or not.
    const std::map<Id, Entry>& entries() const { return followed_; }
    /// The pull of a record; null while it is not shown.
    const ShownPull* find(Id entry) const;
    QString label_of(const Entry& entry) const; ///< "r2 winter · smaller pulley"

    bool corrected() const { return corrected_; }
    void set_corrected(bool on);
    bool running() const { return work_.running(); }
    /// Pulls that are not shown, and why; "" for none.
    QString trouble() const { return trouble_; }

  signals:
    void changed();

  private:
    const DynoState* at(int index) const {
        return index >= 0 && index < static_cast<int>(states_.size())
                   ? &states_[static_cast<std::size_t>(index)]
                   : nullptr;
    }
    void follow();
    bool relabel();
    void take(session::AnalysedStates analysed);
    void choose_usual();

    Document& document_;
    std::vector<DynoState> states_;
    session::StateChoice choice_;
    bool corrected_ = false;
    QString trouble_;
    std::map<Id, Entry> followed_; ///< what the states were made from
    Id followed_revision_ = 0;
    bool followed_corrected_ = false;
    Background work_;
};

} // namespace bathmos::app
