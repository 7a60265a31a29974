// The lexicon: what each metric, finding and cause means, one entry each, out of docs/lexicon.md.
#pragma once

#include <QString>
#include <QStringList>
#include <QVector>

namespace bathmos::app {

struct LexiconEntry {
    QString title;
    QStringList keys; ///< "metric/loft_mm", "cause/surge", "rule/coil_bind"
    QString markdown; ///< picture and words, without title and keys
};

/// Entries in the order of the page: headings of the second order, then a line of keys, then the words.
QVector<LexiconEntry> read_lexicon(const QString& markdown);
/// Null where no entry has the key.
const LexiconEntry* find_entry(const QVector<LexiconEntry>& entries, const QString& key);

} // namespace bathmos::app
