// The train in hand: its file, its edits with undo and redo, what follows from it at once, and a recovery
// copy of unsaved work.
#pragma once

#include "core/problem/input_error.h"
#include "core/train/train_figures.h"

#include <QObject>
#include <QString>
#include <QTimer>
#include <QUndoStack>
#include <memory>
#include <optional>

namespace bathmos::app {

class Document : public QObject {
    Q_OBJECT
  public:
    /// `recovery_path`: where unsaved edits are kept; empty for none.
    explicit Document(QString recovery_path = {}, QObject* parent = nullptr);

    bool has_train() const { return has_train_; }
    const Train& train() const { return train_; }
    QString path() const { return path_; }
    bool modified() const { return !undo_.isClean(); }
    QUndoStack& undo_stack() { return undo_; }
    /// Grows with every change of the train; results carry the revision that they belong to.
    quint64 revision() const { return revision_; }

    /// What follows from the train; null while it has problems.
    const TrainFigures* figures() const { return figures_ ? &*figures_ : nullptr; }
    const RigidMotion* rigid() const { return rigid_ ? &*rigid_ : nullptr; }
    const std::vector<InputProblem>& problems() const { return problems_; }

    /// Throw InputError; the document is then unchanged.
    void open(const QString& path);
    void save(const QString& path);
    void set_new(const Train& train);

    /// One undoable edit; edits with the same non-empty key in a row become one step.
    void edit(const Train& next, const QString& what, const QString& merge_key = {});

    /// Unsaved work of an earlier run, if there is any: its train and the file it belongs to.
    struct Recovered {
        Train train;
        QString path;
    };
    std::optional<Recovered> recoverable() const;
    void recover(const Recovered& recovered);

  signals:
    void changed();      ///< the train differs from before
    void file_changed(); ///< path or modified mark
    void recovery_failed(const QString& why);

  private:
    friend class EditCommand;
    void put(const Train& train);
    void derive();
    void write_recovery();

    QString recovery_path_, path_;
    Train train_;
    bool has_train_ = false;
    quint64 revision_ = 0;
    QUndoStack undo_;
    QTimer recovery_timer_;
    std::optional<RigidMotion> rigid_;
    std::optional<TrainFigures> figures_;
    std::vector<InputProblem> problems_;
};

} // namespace bathmos::app
