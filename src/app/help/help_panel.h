// Help beside the station: the station's own, pages of the docs, entries of the lexicon with their pictures
// in the colours of the look.
#pragma once

#include "app/help/lexicon.h"

#include <QTextBrowser>

namespace bathmos::app {

class Theme;

class HelpPanel : public QTextBrowser {
    Q_OBJECT
  public:
    HelpPanel(Theme& theme, QWidget* parent = nullptr);

    /// The language that pages are looked for in first; what is not there in it is shown in English.
    void set_language(const QString& language);

    /// Help of a station, then the ways to everything else.
    void show_help(const QString& html);
    /// A page of the docs; `section` is the number of one, such as "7" of physics.md 7.
    void show_page(const QString& page, const QString& section = {});
    /// An entry by one of its keys, "metric/loft_mm"; the list of all where there is none.
    void show_entry(const QString& key);
    const QVector<LexiconEntry>& lexicon() const { return lexicon_; }

  protected:
    QVariant loadResource(int type, const QUrl& name) override;

  private:
    QString page_text(const QString& page) const;
    void show_markdown(const QString& markdown);
    void follow(const QUrl& link);

    Theme& theme_;
    QString language_ = QStringLiteral("en");
    QVector<LexiconEntry> lexicon_;
};

} // namespace bathmos::app
