// The dyno pulls of the build in hand, analysed in the background: by state, corrected or as recorded.
#pragma once

#include "app/shell/background.h"
#include "app/shell/document.h"
#include "core/dyno/confounders.h"
#include "core/dyno/pull_compare.h"

#include <QObject>
#include <memory>
#include <optional>
#include <vector>

namespace bathmos::app {

/// One pull as it is shown.
struct ShownPull {
    Id entry = 0;
    Pull pull; ///< corrected, if that is what is shown
    std::optional<Correction> correction;
    PullAnalysis analysis;
    std::vector<ConfounderTest> tests;
};

/// Pulls of one revision with the same surroundings.
struct DynoState {
    Id revision = 0;
    QString label; ///< "r2 winter · smaller pulley"
    std::vector<std::shared_ptr<const ShownPull>> pulls;
    std::optional<StateBreak> first_break;
    std::optional<StateCurve> curve; ///< empty where the pulls share no range
};

class DynoSession : public QObject {
    Q_OBJECT
  public:
    explicit DynoSession(Document& document, QObject* parent = nullptr);

    const std::vector<DynoState>& states() const { return states_; }
    /// That of the revision in hand's latest pulls unless another is chosen; -1 for none.
    int state() const { return state_; }
    /// What it is compared with; -1 for none.
    int against() const { return against_; }
    void choose(int state, int against);
    const DynoState* shown() const { return at(state_); }
    const DynoState* compared() const { return at(against_); }
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
    void take(std::vector<DynoState> states, const QString& trouble);
    void choose_usual();

    Document& document_;
    std::vector<DynoState> states_;
    int state_ = -1, against_ = -1;
    bool corrected_ = false;
    QString trouble_;
    std::map<Id, Entry> followed_; ///< what the states were made from
    Id followed_revision_ = 0;
    bool followed_corrected_ = false;
    Background work_;
};

} // namespace bathmos::app
