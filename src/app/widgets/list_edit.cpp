#include "app/widgets/list_edit.h"
#include "app/text/words.h"

#include "app/theme/theme.h"
#include "app/widgets/number_field.h"

#include <QRegularExpression>

namespace bathmos::app {

ListEdit::ListEdit(const QString& key, const QStringList& columns, QWidget* parent)
    : QPlainTextEdit(parent), columns_(columns) {
    setObjectName(key);
    setAccessibleName(columns.join(QStringLiteral(", ")));
    setFont(Theme::number_font(12));
    setTabChangesFocus(true);
    setLineWrapMode(QPlainTextEdit::NoWrap);
    setPlaceholderText(columns.join(QStringLiteral("  ")));
    connect(this, &QPlainTextEdit::textChanged, this, &ListEdit::typed);
}

void ListEdit::show_rows(const std::vector<std::vector<double>>& columns) {
    QString text;
    for (std::size_t row = 0; !columns.empty() && row < columns[0].size(); ++row) {
        for (std::size_t c = 0; c < columns.size(); ++c)
            text += (c ? QStringLiteral("  ") : QString()) + digits(columns[c][row], 9);
        text += QLatin1Char('\n');
    }
    text.chop(1);
    if (hasFocus() || text == toPlainText())
        return; // the user's own text stays while they type
    showing_ = true;
    setPlainText(text);
    showing_ = false;
    problem_.clear();
}

void ListEdit::typed() {
    if (showing_)
        return;
    std::vector<std::vector<double>> columns(static_cast<std::size_t>(columns_.size()));
    problem_.clear();
    const QStringList lines = toPlainText().split(QLatin1Char('\n'));
    static const QRegularExpression gap(QStringLiteral("[\\s;]+"));
    for (int i = 0; i < lines.size() && problem_.isEmpty(); ++i) {
        const QStringList fields = lines[i].trimmed().split(gap, Qt::SkipEmptyParts);
        if (fields.isEmpty())
            continue;
        if (fields.size() != columns_.size())
            problem_ = tr("line %1 holds %2 numbers; give %3: %4")
                           .arg(i + 1)
                           .arg(fields.size())
                           .arg(columns_.size())
                           .arg(columns_.join(QStringLiteral(", ")));
        for (int c = 0; c < fields.size() && problem_.isEmpty(); ++c)
            if (const auto value = parse_number(fields[c]))
                columns[static_cast<std::size_t>(c)].push_back(*value);
            else
                problem_ = tr("line %1: \"%2\" is not a number").arg(i + 1).arg(fields[c]);
    }
    setToolTip(problem_);
    setStyleSheet(problem_.isEmpty()
                      ? QString()
                      : QStringLiteral("QPlainTextEdit { border: 2px dashed palette(bright-text); }"));
    if (problem_.isEmpty())
        emit edited(columns);
}

} // namespace bathmos::app
