// A number that somebody may know: empty while nobody does, with what is assumed meanwhile in its place.
#pragma once

#include "app/text/display_units.h"
#include "core/start/start_train.h"

#include <QLabel>
#include <QLineEdit>
#include <optional>

namespace bathmos::app {

class KnownNumber : public QWidget {
    Q_OBJECT
  public:
    KnownNumber(DisplayUnits& units, const StartField& field, QWidget* parent = nullptr);

    const StartField& field() const { return field_; }
    /// SI; empty while nothing, or nothing usable, is typed.
    std::optional<double> known() const { return known_; }
    void show_known(const std::optional<double>& si);
    /// What stands for it while it is empty.
    void show_assumed(const std::optional<StandIn>& stand_in);
    /// Why the number cannot be beside the others; "" takes it back.
    void show_problem(const QString& problem);
    /// Why what is typed is no such number.
    QString problem() const { return typed_problem_; }
    QLineEdit* edit() const { return edit_; }

  signals:
    void changed();

  private:
    void typed(const QString& text);
    void relabel();

    DisplayUnits& units_;
    StartField field_;
    QLineEdit* edit_;
    QLabel *name_, *unit_;
    std::optional<double> known_;
    std::optional<StandIn> stand_in_;
    void show_help();

    QString typed_problem_, problem_;
};

} // namespace bathmos::app
