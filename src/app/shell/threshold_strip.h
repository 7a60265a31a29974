// The threshold strip: one speed axis with everything that claims a limit speed, and the speed cursor of all
// views.
#pragma once

#include "app/desk/cursors.h"
#include "app/shell/strip_labels.h"
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
        Overspeed, ///< the highest that the engine may see
        Before,
        Trial,
        Compared
    };
    Kind kind;
    double speed_rpm;
    double half_width_rpm = 0;
    QString text;     ///< e.g. "7959 duration change"
    bool old = false; ///< belongs to an earlier state of the train
    QString source{}; ///< where it comes from, a sentence
    QString link{};   ///< the view that it comes from
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
    /// Speeds within which the cursor moves.
    void set_reach(double low_rpm, double high_rpm);
    /// What is seen: from 0.85 of the lowest claim to 1.1 of the highest, until somebody changes it.
    double low_rpm() const { return low_rpm_; }
    double high_rpm() const { return high_rpm_; }
    void fit_claims();
    /// Whether the sources agree, in words; stands in the strip while no claim is chosen.
    void set_agreement(const QString& words);
    const QString& agreement() const { return agreement_; }
    /// The claim that was chosen, -1 for none.
    int chosen() const { return chosen_; }
    void choose(int mark);
    double pixel_of(double rpm) const;
    /// Where each mark's words stand, px; empty for one that finds no room beside the others. Its mark is
    /// drawn all the same, and its words are spoken.
    QVector<QRectF> word_boxes() const;
    QSize sizeHint() const override { return {900, 138}; }

  signals:
    /// Somebody wants to see where a claim comes from.
    void link_wanted(const QString& link);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    double speed_at(double pixel) const;
    void place();
    void zoom(double factor, double round_rpm);
    void look(double low_rpm, double high_rpm);
    void move_cursor(double rpm);
    int mark_at(const QPointF& pixel) const;
    void choose_next(int step);
    QString sentence() const;
    QRectF sentence_box() const;
    QColor color_of(const StripMark& mark) const;
    void paint_axis(QPainter& painter) const;
    void paint_band(QPainter& painter) const;
    void paint_mark(QPainter& painter, const StripMark& mark, const PlacedLabel& label) const;
    void paint_words(QPainter& painter, const StripMark& mark, const PlacedLabel& label) const;
    void paint_cursor(QPainter& painter) const;
    static QString words_of(const StripMark& mark);
    static QString short_words_of(const StripMark& mark);

    Theme& theme_;
    Cursors& cursors_;
    QVector<StripMark> marks_;
    std::optional<StripBand> band_;
    QString agreement_;
    QVector<PlacedLabel> labels_;
    double low_rpm_ = 1000, high_rpm_ = 10000, reach_low_rpm_ = 1000, reach_high_rpm_ = 10000;
    bool fitted_ = true; ///< nobody has looked elsewhere
    int chosen_ = -1;
    std::optional<double> pulled_from_px_; ///< while the strip itself is being moved
};

} // namespace bathmos::app
