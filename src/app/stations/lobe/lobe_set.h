// The lobes that the station has in front of it: of the build in hand, of the project's other builds, and of
// the shelf; with their curves, computed once each.
#pragma once

#include "app/desk/context.h"
#include "app/plot/plot.h"
#include "core/cam/lobe_motion.h"

#include <QObject>
#include <QSet>
#include <map>

namespace bathmos::app {

struct LoadedLobe {
    enum class From { InHand, Build, Shelf };
    From from = From::InHand;
    Id id = 0;   ///< of the build or part
    QString key; ///< "hand", "build 2", "part 3"
    QString name;
    Lobe lobe;
    Facts facts;
    std::optional<LobeCurve> curve{}; ///< empty where it cannot be smoothed
    QString trouble{};
    bool shown = false;
    Role role = Role::Ink; ///< colour and line that it is drawn in
    Stroke stroke = Stroke::Solid;
};

/// Colours and lines to tell lobes apart; as many as are drawn at once.
inline constexpr int kMostDrawn = 6;

class LobeSet : public QObject {
    Q_OBJECT
  public:
    explicit LobeSet(Context context, QObject* parent = nullptr);

    /// Follows the project only while it is looked at: smoothing is work that no other station waits for.
    void wake(bool on);

    const std::vector<LoadedLobe>& lobes() const { return lobes_; }
    const LoadedLobe* find(const QString& key) const;
    /// Those that are shown and have a curve, at most kMostDrawn.
    std::vector<const LoadedLobe*> shown() const;
    const LoadedLobe* chosen() const { return find(chosen_); }
    void choose(const QString& key);
    void show_lobe(const QString& key, bool on);

    /// At the lifter, or at the valve of the train in hand (of its own build for another build's lobe). Empty
    /// where the train does not close.
    std::optional<LobeMotion> motion(const LoadedLobe& lobe, bool at_valve) const;

    /// The lobe as it would run in the train in hand: one of the shelf under that train's follower.
    Lobe in_hand(const LoadedLobe& lobe) const;

    /// Changes the chosen lobe where it is kept: the revision in hand or the shelf. Lobes of other builds
    /// stay as they are.
    void edit_chosen(const QString& what, const QString& merge_key, const std::function<void(Lobe&)>& apply);
    bool can_edit_chosen() const;

  signals:
    void changed(); ///< which lobes, which are shown, or any of their numbers
    void chosen_changed();

  private:
    void follow();
    void add(LoadedLobe lobe);
    void dress();

    Context context_;
    std::vector<LoadedLobe> lobes_;
    std::map<QString, LoadedLobe> known_; ///< curves of the last round
    bool awake_ = false, missed_ = true;
    QSet<QString> hidden_, wanted_;
    QString chosen_ = QStringLiteral("hand");
};

} // namespace bathmos::app
