#include "app/text/catalogue.h"

#include <QJsonDocument>
#include <QJsonObject>
#include <algorithm>

namespace bathmos::app {

namespace {

constexpr int kStart = 4;           // letters that patterns and fragments are found by
constexpr int kDeepest = 12;        // phrases within phrases
constexpr int kFragmentLetters = 6; // less may be a part of anything
constexpr int kRemembered = 4000;
const QString kHole = QStringLiteral("{}");

qsizetype letters_in(const QString& text) {
    return std::count_if(text.begin(), text.end(), [](QChar c) { return c.isLetter(); });
}

// Where phrases are joined; what stands in brackets belongs to the phrase before.
qsizetype joint_in(const QString& text, const QString& joint) {
    int open = 0;
    for (qsizetype i = 0; i < text.size(); ++i) {
        open += text[i] == QLatin1Char('(') ? 1 : text[i] == QLatin1Char(')') ? -1 : 0;
        if (open <= 0 && QStringView(text).sliced(i).startsWith(joint))
            return i;
    }
    return -1;
}

QHash<QString, QString> table_of(const QJsonObject& object) {
    QHash<QString, QString> out;
    for (auto at = object.begin(); at != object.end(); ++at)
        if (const QString translation = at.value().toString(); !translation.isEmpty())
            out.insert(at.key(), translation);
    return out;
}

} // namespace

Catalogue::Catalogue(const QByteArray& json, QObject* parent) : QTranslator(parent) {
    const QJsonObject all = QJsonDocument::fromJson(json).object();
    window_ = table_of(all.value(QStringLiteral("window")).toObject());
    paper_ = table_of(all.value(QStringLiteral("paper")).toObject());
    core_ = table_of(all.value(QStringLiteral("core")).toObject());
    for (auto at = core_.begin(); at != core_.end(); ++at)
        take_phrase(at.key(), at.value());
    for (QStringList& some : by_start_) // the longest first
        std::sort(some.begin(), some.end(),
                  [](const QString& a, const QString& b) { return a.size() > b.size(); });
}

void Catalogue::take_phrase(const QString& phrase, const QString& translation) {
    const QStringList pieces = phrase.split(kHole), translated = translation.split(kHole);
    if (pieces.size() > 1)
        patterns_.insert(pieces.front().size() < kStart ? QString() : pieces.front().left(kStart),
                         {pieces, translation});
    if (pieces.size() != translated.size())
        return;
    for (qsizetype i = 0; i < pieces.size(); ++i)
        if (letters_in(pieces[i]) >= kFragmentLetters && pieces[i].trimmed().contains(QLatin1Char(' ')) &&
            !fragments_.contains(pieces[i])) {
            fragments_.insert(pieces[i], translated[i]);
            by_start_[pieces[i].left(kStart)] << pieces[i];
        }
}

QString Catalogue::translate(const char* context, const char* source, const char*, int) const {
    if (!source || !*source)
        return {};
    const QString text = QString::fromUtf8(source);
    if (qstrcmp(context, "paper") == 0)
        return paper_.value(text);
    if (qstrcmp(context, "core") != 0)
        return window_.value(text);
    const QMutexLocker lock(&mutex_);
    if (const auto at = remembered_.constFind(text); at != remembered_.constEnd())
        return *at;
    if (remembered_.size() > kRemembered)
        remembered_.clear();
    return *remembered_.insert(text, of_phrase(text, 0));
}

// "" where nothing of it is known.
QString Catalogue::of_phrase(const QString& text, int depth) const {
    if (const auto at = core_.constFind(text); at != core_.constEnd())
        return *at;
    if (depth > kDeepest || letters_in(text) < 2)
        return {};
    if (const QString whole = of_pattern(text, depth); !whole.isEmpty())
        return whole;
    if (const QString joined = of_joined(text, depth); !joined.isEmpty())
        return joined;
    if (const QString bracketed = of_bracketed(text, depth); !bracketed.isEmpty())
        return bracketed;
    return of_fragments(text);
}

// Sentences behind one another, then phrases joined to one another, names among them.
QString Catalogue::of_joined(const QString& text, int depth) const {
    for (const QString& joint : {QStringLiteral(". "), QStringLiteral(" – "), QStringLiteral("; "),
                                 QStringLiteral(": "), QStringLiteral(", ")}) {
        const bool sentences = joint == QStringLiteral(". ");
        const qsizetype end = joint_in(text, joint);
        if (end <= 0)
            continue;
        const qsizetype at = sentences ? end + 1 : end; // its full stop belongs to a sentence
        const QString gap = sentences ? QStringLiteral(" ") : joint;
        const QString left = text.left(at), right = text.mid(at + gap.size());
        const auto known = [&](const QString& part) { // a number stands for itself
            return !sentences && letters_in(part) < 2 ? part : of_phrase(part, depth + (sentences ? 0 : 1));
        };
        const QString first = known(left), second = known(right);
        if (sentences ? !(first.isEmpty() && second.isEmpty()) : !first.isEmpty() && !second.isEmpty())
            return (first.isEmpty() ? left : first) + gap + (second.isEmpty() ? right : second);
    }
    return {};
}

// What is said, and in brackets behind it what that rests on.
QString Catalogue::of_bracketed(const QString& text, int depth) const {
    const qsizetype at = text.indexOf(QStringLiteral(" ("));
    if (at <= 0 || !text.endsWith(QLatin1Char(')')) || text.indexOf(QLatin1Char('('), at + 2) > 0)
        return {};
    const QString before = text.left(at), within = text.mid(at + 2, text.size() - at - 3);
    const QString first = of_phrase(before, depth + 1), second = of_phrase(within, depth + 1);
    if (first.isEmpty() || second.isEmpty())
        return {};
    return first + QStringLiteral(" (") + second + QLatin1Char(')');
}

// Of several patterns that fit, the one that says most by itself; at least a quarter of the text, or it is no
// pattern of it.
QString Catalogue::of_pattern(const QString& text, int depth) const {
    const qsizetype all = letters_in(text);
    qsizetype most = 0;
    QString best;
    QStringList best_values;
    for (const QString& start : {text.left(kStart), QString()})
        for (auto [at, end] = patterns_.equal_range(start); at != end; ++at) {
            QStringList values;
            const qsizetype letters = letters_in(at->pieces.join(QString()));
            if (letters > most && 4 * letters >= all && matches(at->pieces, text, values)) {
                most = letters;
                best = at->translation;
                best_values = values;
            }
        }
    return best.isEmpty() ? QString() : fill(best, best_values, depth);
}

// The longest pieces that are known, from left to right; what stands between is translated word for word of
// its commas where it is known, and stays where it is not.
QString Catalogue::of_fragments(const QString& text) const {
    QString out, between;
    bool any = false;
    const auto close = [&] {
        QStringList words = between.split(QStringLiteral(", "));
        for (QString& word : words)
            if (const auto at = core_.constFind(word.trimmed());
                at != core_.constEnd() && letters_in(word) > 2)
                word.replace(word.trimmed(), *at);
        out += words.join(QStringLiteral(", "));
        between.clear();
    };
    for (qsizetype i = 0; i < text.size();) {
        const QStringList candidates = by_start_.value(text.mid(i, kStart));
        const auto found = std::find_if(candidates.begin(), candidates.end(), [&](const QString& one) {
            return QStringView(text).sliced(i).startsWith(one);
        });
        if (found == candidates.end()) {
            between += text[i++];
            continue;
        }
        close();
        out += fragments_.value(*found);
        i += found->size();
        any = true;
    }
    close();
    static const QString kSpeed = QStringLiteral("rev/min");
    if (const auto speed = core_.constFind(kSpeed); speed != core_.constEnd() && out.contains(kSpeed)) {
        out.replace(kSpeed, *speed);
        any = true;
    }
    return any ? out : QString();
}

QString Catalogue::fill(const QString& translation, const QStringList& values, int depth) const {
    QString out;
    int next = 0;
    for (qsizetype i = 0; i < translation.size(); ++i) {
        const qsizetype end =
            translation[i] == QLatin1Char('{') ? translation.indexOf(QLatin1Char('}'), i) : -1;
        if (end < 0) {
            out += translation[i];
            continue;
        }
        bool numbered = false;
        const int given = translation.mid(i + 1, end - i - 1).toInt(&numbered);
        const QString value = values.value(numbered ? given - 1 : next++);
        const QString translated = of_phrase(value, depth + 1);
        out += translated.isEmpty() ? value : translated;
        i = end;
    }
    return out;
}

bool Catalogue::matches(const QStringList& pieces, const QString& text, QStringList& values) {
    if (!text.startsWith(pieces.front()) || !text.endsWith(pieces.back()))
        return false;
    qsizetype from = pieces.front().size();
    for (qsizetype i = 1; i < pieces.size(); ++i) {
        const bool last = i + 1 == pieces.size();
        const qsizetype end = text.size() - pieces.back().size();
        // what stands before the last value is looked for from the end, for a value may hold such a piece too
        const qsizetype at = last                     ? end
                             : i + 2 == pieces.size() ? text.lastIndexOf(pieces[i], end - pieces[i].size())
                                                      : text.indexOf(pieces[i], from);
        if (at < from)
            return false;
        values << text.mid(from, at - from);
        from = at + pieces[i].size();
    }
    return true;
}

} // namespace bathmos::app
