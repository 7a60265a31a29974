// Engines and builds of the project: the numbers that clearances and findings need, and new builds.
#pragma once

#include "app/desk/context.h"

#include <QWidget>

class QComboBox;
class QFormLayout;
class QLineEdit;

namespace bathmos::app {

class ProjectPanel : public QWidget {
    Q_OBJECT
  public:
    explicit ProjectPanel(Context context, QWidget* parent = nullptr);

  signals:
    void message(const QString& text);

  private:
    void make_engine(QFormLayout* form);
    void make_build(QFormLayout* form);
    void refresh();
    void change_engine(const std::function<void(Engine&)>& apply);
    void change_build(const std::function<void(Build&)>& apply);
    void add_number(QFormLayout* form, const QString& name, const QString& label, Quantity quantity,
                    double low, double high, std::function<double(const Engine&, const Build&)> get,
                    std::function<void(double)> set);
    void add_choice(QFormLayout* form, const QString& name, const QString& label, const QStringList& words,
                    std::function<QString(const Engine&, const Build&)> get,
                    std::function<void(const QString&)> set);
    void add_text(QFormLayout* form, const QString& name, const QString& label,
                  std::function<QString(const Engine&, const Build&)> get,
                  std::function<void(const QString&)> set);

    Context context_;
    std::vector<std::function<void(const Engine&, const Build&)>> refreshers_;
};

} // namespace bathmos::app
