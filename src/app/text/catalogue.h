// The window in another language: its texts and the core's phrases with their translations, in a file of
// their own (src/app/language).
#pragma once

#include <QHash>
#include <QMultiHash>
#include <QMutex>
#include <QTranslator>
#include <QVector>

namespace bathmos::app {

/// A translator whose texts come from a JSON object of three: "window", each text of the window, "paper",
/// words that stand alone in a cell of a report, and "core", each phrase of the core, with "{}" for what
/// differs from time to time, to its translation. What stands for
/// "{}" is translated too, where it is a phrase by itself. "{1}", "{2}" .. in a translation put them in
/// another order.
class Catalogue : public QTranslator {
    Q_OBJECT
  public:
    /// Empty where the bytes are no such object.
    explicit Catalogue(const QByteArray& json, QObject* parent = nullptr);

    bool isEmpty() const override { return window_.isEmpty(); }
    /// In context "core" a phrase, in "paper" a cell, else a text of the window; "" for what is not there.
    QString translate(const char* context, const char* source, const char* disambiguation,
                      int n) const override;
    bool has_text(const QString& text) const { return window_.contains(text); }
    bool has_phrase(const QString& phrase) const { return core_.contains(phrase); }

  private:
    struct Pattern {
        QStringList pieces; ///< between the "{}"
        QString translation;
    };
    void take_phrase(const QString& phrase, const QString& translation);
    QString of_phrase(const QString& text, int depth) const;
    QString of_joined(const QString& text, int depth) const;
    QString of_bracketed(const QString& text, int depth) const;
    QString of_pattern(const QString& text, int depth) const;
    QString of_fragments(const QString& text) const;
    QString fill(const QString& translation, const QStringList& values, int depth) const;
    static bool matches(const QStringList& pieces, const QString& text, QStringList& values);

    QHash<QString, QString> window_, paper_, core_;
    QMultiHash<QString, Pattern> patterns_;      ///< by their first letters; "" where a value stands first
    QHash<QString, QStringList> by_start_;       ///< what stands between values, by its first letters
    QHash<QString, QString> fragments_;          ///< the same with its translation
    mutable QMutex mutex_;                       ///< pages are made beside the window
    mutable QHash<QString, QString> remembered_; ///< phrases that were asked for before
};

} // namespace bathmos::app
