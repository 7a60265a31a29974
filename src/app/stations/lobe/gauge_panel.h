// What the gauge said of the chosen lobe: residual of the smoothing, its strength, base circle, readings that
// stand out; each correction a step that can be seen and taken back.
#pragma once

#include "app/stations/lobe/lobe_set.h"
#include "core/lobe/reconcile.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QSlider;

namespace bathmos::app {

class NumberField;
class NumberTable;
class Refresher;

class GaugePanel : public QWidget {
    Q_OBJECT
  public:
    GaugePanel(Context context, LobeSet& set, QWidget* parent = nullptr);

  signals:
    void message(const QString& text);

  private:
    QWidget* make_controls();
    void refresh();
    const Entry* gauging() const;
    void show_table(const LobeTable& table, const SmoothingReport& report);
    void fill_outstanding(const LobeTable& table);
    void change(const QString& what, const QString& key, const std::function<void(LobeTable&)>& apply);
    void toggle_reading(int row);
    void fill_others();
    void show_other();
    void join();

    Context context_;
    LobeSet& set_;
    QLabel *words_ = nullptr, *strength_words_ = nullptr;
    QWidget* controls_ = nullptr;
    QSlider* strength_ = nullptr;
    QComboBox *rule_ = nullptr, *base_ = nullptr, *other_ = nullptr;
    QPushButton* join_ = nullptr;
    std::optional<Reconciled> reconciled_;
    NumberField* noise_ = nullptr;
    QLineEdit* reason_ = nullptr;
    NumberTable *numbers_ = nullptr, *outstanding_ = nullptr;
    Plot* residual_ = nullptr;
    Refresher* refresh_ = nullptr;
    std::vector<std::size_t> places_; ///< of the rows of outstanding_
    bool filling_ = false;
};

} // namespace bathmos::app
