// Departures of a calibration as a picture: each number's belief as a band, the fitted value with its
// uncertainty on it.
#pragma once

#include "app/theme/theme.h"
#include "core/calibration/calibrate.h"

#include <QWidget>

namespace bathmos::app {

class DeparturesView : public QWidget {
    Q_OBJECT
  public:
    explicit DeparturesView(Theme& theme, QWidget* parent = nullptr);

    /// Shows the numbers, those that depart most on top; faded while they are old.
    void set_numbers(const std::vector<FittedNumber>& numbers, bool faded);
    /// In the order shown, for tests and readers.
    QStringList labels() const;
    /// Where a number's value stands, px from the left, by its key; the belief's middle for one not shown.
    double pixel_of(const QString& key) const;
    QSize sizeHint() const override;

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    double pixel_at(double sigma) const;
    void paint_belief(QPainter& painter, double bottom) const;
    void paint_number(QPainter& painter, const FittedNumber& number, double middle) const;

    Theme& theme_;
    std::vector<FittedNumber> numbers_;
    bool faded_ = false;
};

} // namespace bathmos::app
