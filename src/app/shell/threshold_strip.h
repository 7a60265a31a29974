// The threshold strip: one speed axis with everything that claims a limit speed, and the speed cursor of all
// views.
#pragma once

#include "app/desk/cursors.h"
#include "app/theme/theme.h"

#include <QString>
#include <QVector>
#include <QWidget>
#include <optional>

namespace bathmos::app {

/// One claim on the strip. Shapes differ as well as colours: model a flag, rigid bound an open flag, rig a
/// diamond with its half step, the dyno's break a step down with its scatter, target a square, a trial and
/// what was before it a dotted and a faint flag, the compared revision a faint one, too.
struct StripMark {
    enum class Kind {
        Model,
        ModelForce, ///< contact loss, where another metric is the limit
        Rigid,
        ModelOnset,
        RigOnset,
        RigLimit,
        DynoBreak,
        Target,
        Before,
        Trial,
        Compared
    };
    Kind kind;
    double speed_rpm;
    double half_width_rpm = 0;
    QString text;     ///< e.g. "7959 duration change"
    bool old = false; ///< belongs to an earlier state of the train
};

/// The model limit's 10, 50 and 90 % over the train's tolerances; an end beyond the range is left open.
struct StripBand {
    std::optional<double> low_rpm, middle_rpm, high_rpm;
    QString text;
    bool old = false;
};

class ThresholdStrip : public QWidget {
    Q_OBJECT
  public:
    ThresholdStrip(Theme& theme, Cursors& cursors, QWidget* parent = nullptr);

    void set_marks(const QVector<StripMark>& marks);
    const QVector<StripMark>& marks() const { return marks_; }
    void set_band(const std::optional<StripBand>& band);
    const std::optional<StripBand>& band() const { return band_; }
    /// Speeds that are computed or recorded, drawn as ticks; the cursor may stand anywhere.
    void set_range(double low_rpm, double high_rpm);
    double pixel_of(double rpm) const;
    /// Where each mark's words stand, px; empty for one that finds no room beside the others. Its mark is
    /// drawn all the same, and its words are spoken.
    QVector<QRectF> word_boxes() const;
    QSize sizeHint() const override { return {900, 138}; }

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    double speed_at(double pixel) const;
    QColor color_of(const StripMark& mark) const;
    void paint_axis(QPainter& painter) const;
    void paint_band(QPainter& painter) const;
    void paint_mark(QPainter& painter, const StripMark& mark, const QRectF& words) const;
    void paint_words(QPainter& painter, const StripMark& mark, const QRectF& box) const;
    void paint_cursor(QPainter& painter) const;
    static QString words_of(const StripMark& mark);

    Theme& theme_;
    Cursors& cursors_;
    QVector<StripMark> marks_;
    std::optional<StripBand> band_;
    double low_rpm_ = 1000, high_rpm_ = 10000;
};

} // namespace bathmos::app
