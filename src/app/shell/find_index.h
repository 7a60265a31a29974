// What can be found by a few letters: actions, words of the glossary, pages of help.
#pragma once

#include <QString>
#include <QVector>
#include <functional>

namespace bathmos::app {

struct Findable {
    enum class Kind { Action, Word, Help };
    Kind kind = Kind::Action;
    QString title, detail; ///< detail: keys, a word's meaning, the text around
    QString searched;      ///< what else it is found by: synonyms, the whole paragraph
    std::function<void()> go{};
};

/// Rows of the glossary's table: term, meaning and what users type instead. `go` is left empty.
QVector<Findable> words_of_glossary(const QString& markdown);
/// Paragraphs of a station's help (rich text); `title` is the station's.
QVector<Findable> paragraphs_of_help(const QString& title, const QString& html);

/// What holds all words of the query, best first: titles that begin with it, titles that hold it, what is
/// found by other words; actions before words before help. Everything but help where the query is empty.
QVector<Findable> find_all(const QVector<Findable>& among, const QString& query, int most = 60);

} // namespace bathmos::app
