#include "app/shell/find_index.h"

#include <QTextDocumentFragment>
#include <algorithm>
#include <optional>

namespace bathmos::app {

namespace {

QString plain(QString cell) {
    cell.remove(QLatin1Char('`')).remove(QLatin1Char('*'));
    return cell.trimmed();
}

// How well it answers, less is better; empty where it does not.
std::optional<int> rank_of(const Findable& one, const QString& query, const QStringList& words) {
    const auto holds = [&](const QString& text) {
        return std::all_of(words.begin(), words.end(),
                           [&](const QString& word) { return text.contains(word, Qt::CaseInsensitive); });
    };
    const int kind = static_cast<int>(one.kind);
    if (words.isEmpty())
        return one.kind == Findable::Kind::Help ? std::nullopt : std::optional(kind);
    if (one.title.startsWith(query, Qt::CaseInsensitive) && one.kind != Findable::Kind::Help)
        return kind;
    if (holds(one.title) && one.kind != Findable::Kind::Help)
        return 10 + kind;
    return holds(one.title + QLatin1Char(' ') + one.searched) ? std::optional(20 + kind) : std::nullopt;
}

} // namespace

QVector<Findable> words_of_glossary(const QString& markdown) {
    QVector<Findable> out;
    for (const QString& line : markdown.split(QLatin1Char('\n'))) {
        const QStringList cells = line.split(QLatin1Char('|'));
        if (cells.size() < 6 || cells[1].contains(QStringLiteral("---")) ||
            plain(cells[1]) == QStringLiteral("term"))
            continue;
        out.push_back({Findable::Kind::Word, plain(cells[1]), plain(cells[2]),
                       plain(cells[2]) + QLatin1Char(' ') + plain(cells[4])});
    }
    return out;
}

QVector<Findable> paragraphs_of_help(const QString& title, const QString& html) {
    QVector<Findable> out;
    for (const QString& piece : html.split(QStringLiteral("<p>"))) {
        const QString text = QTextDocumentFragment::fromHtml(piece).toPlainText().simplified();
        if (text.size() > 20)
            out.push_back({Findable::Kind::Help, title, text, text});
    }
    return out;
}

QVector<Findable> find_all(const QVector<Findable>& among, const QString& query, int most) {
    const QString asked = query.simplified();
    const QStringList words = asked.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    QVector<std::pair<int, const Findable*>> found;
    for (const Findable& one : among)
        if (const auto rank = rank_of(one, asked, words))
            found.push_back({*rank, &one});
    std::stable_sort(found.begin(), found.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    QVector<Findable> out;
    for (const auto& [rank, one] : found)
        if (out.size() < most)
            out.push_back(*one);
    return out;
}

} // namespace bathmos::app
