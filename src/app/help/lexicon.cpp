#include "app/help/lexicon.h"

#include <algorithm>

namespace bathmos::app {

QVector<LexiconEntry> read_lexicon(const QString& markdown) {
    QVector<LexiconEntry> out;
    const QStringList pieces = (QLatin1Char('\n') + markdown).split(QStringLiteral("\n## "));
    for (qsizetype i = 1; i < pieces.size(); ++i) { // before the first stands what the page is
        QStringList lines = pieces[i].split(QLatin1Char('\n'));
        LexiconEntry entry;
        entry.title = lines.takeFirst().trimmed();
        for (const QString& word :
             lines.isEmpty() ? QStringList() : lines.takeFirst().split(QLatin1Char(' ')))
            if (word.size() > 2 && word.startsWith(QLatin1Char('`')) && word.endsWith(QLatin1Char('`')))
                entry.keys << word.mid(1, word.size() - 2);
        entry.markdown = lines.join(QLatin1Char('\n')).trimmed();
        out.push_back(entry);
    }
    return out;
}

const LexiconEntry* find_entry(const QVector<LexiconEntry>& entries, const QString& key) {
    const auto at = std::find_if(entries.begin(), entries.end(),
                                 [&](const LexiconEntry& one) { return one.keys.contains(key); });
    return at == entries.end() ? nullptr : &*at;
}

} // namespace bathmos::app
