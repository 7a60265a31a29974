#include "app/shell/document.h"

#include "core/train/train_check.h"
#include "io/file/safe_file.h"
#include "io/train/train_file.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QUndoCommand>

namespace bathmos::app {

// Swaps two whole trains: a train is a small value, so an edit is simply before and after.
class EditCommand : public QUndoCommand {
  public:
    EditCommand(Document& document, Train next, const QString& what, QString key)
        : document_(document), before_(document.train()), after_(std::move(next)), key_(std::move(key)) {
        setText(what);
    }
    void undo() override { document_.put(before_); }
    void redo() override { document_.put(after_); }
    int id() const override { return key_.isEmpty() ? -1 : 1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* next = static_cast<const EditCommand*>(other);
        if (next->key_ != key_)
            return false;
        after_ = next->after_;
        setObsolete(after_ == before_);
        return true;
    }

  private:
    Document& document_;
    Train before_, after_;
    QString key_;
};

namespace {
constexpr int kRecoveryDelay_ms = 300;
std::string native(const QString& path) {
    return QFile::encodeName(path).toStdString();
}
} // namespace

Document::Document(QString recovery_path, QObject* parent)
    : QObject(parent), recovery_path_(std::move(recovery_path)) {
    recovery_timer_.setSingleShot(true);
    recovery_timer_.setInterval(kRecoveryDelay_ms);
    connect(&recovery_timer_, &QTimer::timeout, this, &Document::write_recovery);
    connect(&undo_, &QUndoStack::cleanChanged, this, &Document::file_changed);
}

void Document::open(const QString& path) {
    Train train = io::read_train(native(path));
    path_ = QFileInfo(path).absoluteFilePath();
    undo_.clear();
    undo_.setClean();
    put(train);
    emit file_changed();
}

void Document::save(const QString& path) {
    io::write_train(native(path), train_);
    path_ = QFileInfo(path).absoluteFilePath();
    undo_.setClean();
    write_recovery();
    emit file_changed();
}

void Document::set_new(const Train& train) {
    path_.clear();
    undo_.clear();
    undo_.resetClean();
    put(train);
    emit file_changed();
}

void Document::edit(const Train& next, const QString& what, const QString& merge_key) {
    if (next == train_)
        return;
    undo_.push(new EditCommand(*this, next, what, merge_key));
}

void Document::put(const Train& train) {
    train_ = train;
    has_train_ = true;
    ++revision_;
    derive();
    recovery_timer_.start();
    emit changed();
}

void Document::derive() {
    rigid_.reset();
    figures_.reset();
    problems_ = check_train(train_);
    if (!problems_.empty())
        return;
    rigid_.emplace(train_, curve_of(train_.lobe));
    figures_ = figures_of(train_, *rigid_);
}

// The copy holds the file's path in its first line, then the train; no copy stands while nothing is unsaved.
void Document::write_recovery() {
    if (recovery_path_.isEmpty())
        return;
    if (!modified()) {
        QFile::remove(recovery_path_);
        return;
    }
    if (!problems_.empty())
        return; // the copy of the last train that can be opened again stays
    try {
        QDir().mkpath(QFileInfo(recovery_path_).absolutePath());
        io::write_file(native(recovery_path_), native(path_) + "\n" + io::train_text(train_));
    } catch (const InputError& error) {
        emit recovery_failed(QString::fromStdString(error.what()));
    }
}

std::optional<Document::Recovered> Document::recoverable() const {
    if (recovery_path_.isEmpty() || !QFile::exists(recovery_path_))
        return std::nullopt;
    try {
        const std::string text = io::read_file(native(recovery_path_));
        const auto end = text.find('\n');
        if (end == std::string::npos)
            return std::nullopt;
        return Recovered{io::parse_train(text.substr(end + 1), "the recovery copy"),
                         QFile::decodeName(QByteArray::fromStdString(text.substr(0, end)))};
    } catch (const InputError&) {
        return std::nullopt; // not one of ours: leave it where it is
    }
}

void Document::recover(const Recovered& recovered) {
    path_ = recovered.path;
    undo_.clear();
    undo_.resetClean();
    put(recovered.train);
    emit file_changed();
}

} // namespace bathmos::app
