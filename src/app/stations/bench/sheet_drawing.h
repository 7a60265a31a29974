// A small drawing of where the instrument goes, with the dimension that is asked for set off.
#pragma once

#include "app/theme/theme.h"

#include <QWidget>

class QPainter;

namespace bathmos::app {

class SheetDrawing : public QWidget {
    Q_OBJECT
  public:
    explicit SheetDrawing(const Theme& theme, QWidget* parent = nullptr);
    void set_kind(const QString& kind);
    /// The key of what is asked for, as in a sheet file; others than the drawing has set nothing off.
    void point_at(const QString& key);
    const QString& pointed_at() const { return key_; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void draw_height(QPainter& painter) const;
    void draw_steps(QPainter& painter) const;
    void draw_spring(QPainter& painter) const;
    void draw_ratio(QPainter& painter) const;
    void draw_stiffness(QPainter& painter) const;
    void draw_swing(QPainter& painter) const;
    void draw_scale(QPainter& painter) const;
    void draw_rocker_on_scale(QPainter& painter) const;
    void draw_lash(QPainter& painter) const;
    void draw_mark(QPainter& painter) const;
    void draw_clearance(QPainter& painter) const;
    void draw_contact(QPainter& painter) const;
    void draw_degree_wheel(QPainter& painter) const;
    void dimension(QPainter& painter, QPointF from, QPointF to, const QString& text,
                   const QStringList& keys) const;
    void arrow(QPainter& painter, QPointF from, QPointF to, const QString& text,
               const QStringList& keys) const;
    void coil(QPainter& painter, double x, double top, double bottom, double width) const;
    void dial(QPainter& painter, QPointF middle, QPointF tip, const QStringList& keys) const;
    bool set_off(const QStringList& keys) const { return keys.contains(key_); }
    QPen pen(const QStringList& keys) const;

    const Theme& theme_;
    QString kind_, key_;
};

} // namespace bathmos::app
