// A plot of curves over one axis: drag to zoom, wheel, double click to fit, hover reads, a shared cursor,
// export. Holds copies of what it draws; a plot never computes.
#pragma once

#include "app/theme/theme.h"

#include <QVector>
#include <QWidget>
#include <functional>
#include <optional>

class QCustomPlot;
class QCPGraph;
class QCPItemStraightLine;
class QCPItemText;
class QCPLayer;
class QRubberBand;

namespace bathmos::app {

enum class Stroke { Solid, Dashed, Dots, Points }; ///< Points: dots without a line

struct Limits {
    std::optional<double> above, below; ///< hatched beyond
};

class Plot : public QWidget {
    Q_OBJECT
  public:
    Plot(Theme& theme, const QString& name, QWidget* parent = nullptr);
    ~Plot() override;

    void set_axes(const QString& x_label, const QString& y_label);
    /// Adds a curve; the answer names it from then on.
    int add_curve(const QString& name, Role role, Stroke stroke = Stroke::Solid);
    void set_curve(int curve, const QVector<double>& x, const QVector<double>& y, bool faded = false);
    /// Another name, colour and line for a curve.
    void restyle_curve(int curve, const QString& name, Role role, Stroke stroke);
    void clear_curve(int curve);
    /// Draws a dot only at every n-th point of a Stroke::Dots curve.
    void set_dot_every(int curve, int n);
    /// Curves without a fixed number, drawn thin in one role (coils, clouds). Replaces the ones before.
    void set_bundle(const QVector<double>& x, const QVector<QVector<double>>& ys, Role role,
                    bool faded = false);
    void set_limits(const Limits& limits);
    /// Vertical marks with a word, e.g. crossings.
    struct Mark {
        double x;
        QString text;
        Role role;
    };
    enum class MarkWords { Top, Foot };
    void set_marks(const QVector<Mark>& marks, MarkWords words = MarkWords::Top);

    void set_cursor(double x);
    double cursor() const { return cursor_; }
    /// A line of words over the plot, "" for none, e.g. that results are old.
    void set_note(const QString& note);
    /// The range that fit() shows; empty: what the curves need.
    void set_x_range(double low, double high);
    void set_y_at_least(double low, double high);
    void fit();
    void redraw();
    /// Draws at once what waits to be drawn, for paper.
    void draw_now();

    /// Curve's points as drawn, for tests and export.
    QVector<QPointF> points(int curve) const;
    bool is_faded(int curve) const;
    QString note() const { return note_text_; }
    /// What stands at the cursor, in one line of words, for a screen reader.
    QString spoken() const;
    /// All curves as a table: x and one column a curve, tab-separated.
    QString table() const;
    /// By the file's ending: png, svg, pdf or csv. False if it could not be written.
    bool export_to(const QString& path) const;
    QPointF pixel_of(double x, double y) const; ///< in this widget, for tests

  signals:
    void cursor_moved(double x); ///< the user moved the cursor here

  protected:
    QCustomPlot* canvas() const { return canvas_; }
    bool eventFilter(QObject* watched, QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void showEvent(QShowEvent* event) override;
    /// Draws the cursors alone; out of sight they wait until they are seen.
    void draw_cursors();
    virtual void restyle();
    /// The user chose a place in the plot; by default its x becomes the cursor.
    virtual void place_cursor(double x, double y);
    /// Words for the numbers under the pointer.
    virtual QString reading(double x, double y) const;
    double cursor_step_ = 1;

  public:
    void set_cursor_step(double step) { cursor_step_ = step; }

  private:
    struct Curve {
        QCPGraph* graph;
        Role role;
        Stroke stroke;
        bool faded = false;
    };
    void make_legend();
    void style_curve(const Curve& curve);
    void press(const QPoint& at);
    void move(const QPoint& at, bool pressed);
    void release(const QPoint& at);
    void zoom_to(const QRect& area);
    void wheel(const QPoint& at, double turns);
    void show_menu(const QPoint& at);
    void place_at(const QPoint& at);
    void draw_limits();

    Theme& theme_;
    QString name_, x_label_, y_label_, note_text_;
    QCustomPlot* canvas_;
    QVector<Curve> curves_;
    QVector<QCPGraph*> bundle_;
    Role bundle_role_ = Role::Predicted;
    bool bundle_faded_ = false;
    QCPItemStraightLine* cursor_line_ = nullptr;
    QCPItemText* note_ = nullptr;
    QVector<Mark> marks_;
    MarkWords mark_words_ = MarkWords::Top;
    Limits limits_;
    std::optional<std::pair<double, double>> x_range_, y_at_least_;
    double cursor_ = 0;
    QPoint pressed_at_;
    enum class Drag { None, Cursor, Zoom } drag_ = Drag::None;
    QRubberBand* band_ = nullptr;
    bool zoomed_ = false, cursors_old_ = false;
};

} // namespace bathmos::app
