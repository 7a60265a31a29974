// Every value of the train file as fields, made from the core's table of fields. Edits go to the document,
// one undo step for a run of keys in one field.
#pragma once

#include "app/desk/context.h"
#include "app/widgets/number_field.h"

#include <QScrollArea>
#include <functional>
#include <map>
#include <set>

class QVBoxLayout;

namespace bathmos::app {

class TrainForm : public QScrollArea {
    Q_OBJECT
  public:
    explicit TrainForm(Context context, QWidget* parent = nullptr);
    /// Scrolls to the first number of a part.
    void show_part(PartKind kind);

  private:
    using Change = std::function<void(Train&)>;

    void refresh(); ///< new values; rebuilds where parts came or went
    void rebuild();
    QString shape() const; ///< what decides which fields there are
    void change(const QString& what, const QString& key, const Change& apply);

    void show_sources();
    void ask_source(NumberField* number, const std::string& key);
    void watch_source(NumberField* number, const std::string& key);
    void show_field(QWidget* edit);
    QVBoxLayout* group(const QString& title);
    void add_text(QVBoxLayout* to, const QString& key, const QString& label,
                  std::function<std::string*(Train&)> at);
    void add_choice(QVBoxLayout* to, const QString& key, const QString& label, const QStringList& choices,
                    std::function<int(const Train&)> get, std::function<void(Train&, int)> set);
    void add_switch(QVBoxLayout* to, const QString& key, const QString& label, bool on,
                    std::function<void(Train&, bool)> set);
    void add_fields(QVBoxLayout* to, const std::string& prefix, bool deeper = true);
    void make_pullable(NumberField* number, const QString& key, const QString& label,
                       std::function<void(Train&, double)> set);
    static QStringList ratio_kinds(Layout layout);
    void add_list(QVBoxLayout* to, const QString& key, const QStringList& columns, int height,
                  std::function<std::vector<std::vector<double>>(const Train&)> get,
                  std::function<void(Train&, const std::vector<std::vector<double>>&)> set);
    void add_head();
    void add_lobe();
    void add_drive();
    void add_valve();
    void add_springs();
    void add_spring(QVBoxLayout* to, std::size_t index);
    void add_rest();
    void add_model_options();
    double list_unit() const; ///< length unit of lists, to SI

    Context context_;
    QVBoxLayout* column_ = nullptr;
    QString built_shape_;
    std::vector<std::function<void(const Train&)>> refreshers_;
    std::vector<std::pair<NumberField*, std::string>> numbers_; ///< with their keys
    struct ListHeading {
        QLabel* label;
        std::string key;
        QString words;
    };
    std::vector<ListHeading> lists_; ///< a load table is assumed as a whole
    std::map<std::string, UncertainInput> sources_;
    std::set<QString> folded_; ///< by title
};

} // namespace bathmos::app
