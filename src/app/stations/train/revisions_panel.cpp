#include "app/stations/train/revisions_panel.h"

#include "app/text/words.h"
#include "app/widgets/number_table.h"
#include "session/compare/revision_comparison.h"

#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <cmath>
#include <map>
#include <set>

namespace bathmos::app {

RevisionsPanel::RevisionsPanel(Context context, const Dialogs& dialogs, QWidget* parent)
    : QWidget(parent), context_(context), dialogs_(dialogs), tree_(new QTreeWidget), caption_(new QLabel),
      table_(new NumberTable(QStringLiteral("revision_differences"))) {
    table_->setAccessibleName(tr("What differs between two revisions"));
    setObjectName(QStringLiteral("revisions"));
    auto* page = new QVBoxLayout(this);
    page->setContentsMargins(8, 8, 8, 8);
    tree_->setObjectName(QStringLiteral("revision_tree"));
    tree_->setAccessibleName(tr("Revisions of the build"));
    tree_->setHeaderLabels({tr("Revision"), tr("Why"), tr("Limit")});
    tree_->setIndentation(12);
    tree_->header()->setStretchLastSection(false);
    tree_->header()->setSectionResizeMode(1, QHeaderView::Stretch);
    page->addWidget(tree_, 2);
    auto* line = new QHBoxLayout;
    const auto add = [&](const char* name, const QString& text, const QString& tip, auto run) {
        auto* button = new QPushButton(text);
        button->setObjectName(QLatin1String(name));
        button->setToolTip(tip);
        connect(button, &QPushButton::clicked, this, run);
        line->addWidget(button);
    };
    add("revision_show", tr("Look at it"), tr("Takes it in hand; an edit there makes a branch"),
        [this] { context_.document.show(chosen()); });
    add("revision_compare", tr("Compare"), tr("Sets it against the one in hand, on every view"),
        [this] { context_.document.compare(chosen()); });
    add("revision_name", tr("Name…"), tr("What people call it"), [this] { rename(false); });
    add("revision_reason", tr("Reason…"), tr("Why it was made"), [this] { rename(true); });
    page->addLayout(line);
    caption_->setWordWrap(true);
    caption_->setObjectName(QStringLiteral("revision_caption"));
    page->addWidget(caption_);
    table_->set_headings({tr("What"), tr("Before"), tr("After"), tr("Unit")});
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    const std::pair<int, int> widths[] = {{1, 92}, {2, 92}, {3, 48}};
    for (const auto& [column, width] : widths)
        table_->setColumnWidth(column, width);
    page->addWidget(table_, 3);
    connect(tree_, &QTreeWidget::itemDoubleClicked, this, [this] { context_.document.show(chosen()); });
    connect(&context_.document, &Document::records_changed, this, &RevisionsPanel::refresh);
    connect(&context_.units, &DisplayUnits::changed, this, &RevisionsPanel::refresh);
    refresh();
}

Id RevisionsPanel::chosen() const {
    const QTreeWidgetItem* item = tree_->currentItem();
    return item ? item->data(0, Qt::UserRole).toLongLong() : context_.document.shown();
}

// What the one in hand is set against: the compared one, else its parent.
Id RevisionsPanel::other() const {
    const Document& d = context_.document;
    return session::set_against(d.project(), d.shown(), d.compared());
}

void RevisionsPanel::refresh() {
    if (!isVisible()) // filled when it is looked at
        return;
    if (!context_.document.has_train())
        return;
    fill_tree();
    show_differences();
    context_.comparison.want_limit(other());
}

void RevisionsPanel::fill_tree() {
    const Document& d = context_.document;
    const Project& p = d.project();
    const Id before = chosen();
    std::map<Id, QTreeWidgetItem*> items;
    std::set<Id> followed;
    std::map<Id, const Prediction*> predictions; // the newest of each
    for (const auto& [id, prediction] : p.predictions)
        predictions[prediction.revision] = &prediction;
    const std::set<Id> frozen = p.frozen_revisions();
    tree_->setUpdatesEnabled(false);
    tree_->clear();
    std::size_t place = 0;
    for (const Id id : p.revisions_of(d.build())) {
        const Revision& revision = p.revisions.at(id);
        // a line of revisions is a list; what branches off stands under it
        QTreeWidgetItem* before_it = items.contains(revision.parent) ? items.at(revision.parent) : nullptr;
        const bool goes_on = before_it && !followed.contains(revision.parent);
        followed.insert(revision.parent);
        QTreeWidgetItem* above = goes_on ? before_it->parent() : before_it;
        auto* item = above ? new QTreeWidgetItem(above) : new QTreeWidgetItem(tree_);
        items[id] = item;
        const bool never_changes = frozen.contains(id);
        item->setData(0, Qt::UserRole, QVariant::fromValue<qlonglong>(id));
        item->setText(0, words(Project::label_at(++place, revision)) +
                             (never_changes ? QStringLiteral(" ▣") : QString()) +
                             (id == d.compared() ? tr(" (compared)") : QString()));
        item->setText(1, words(revision.reason));
        item->setToolTip(
            1, tr("%1, %2%3")
                   .arg(words(revision.reason), words(revision.when),
                        never_changes ? tr("; a run was made with it, so it never changes") : QString()));
        if (const auto made = predictions.find(id); made != predictions.end() && made->second->limit_rpm)
            item->setText(2, fixed(*made->second->limit_rpm, 0));
        if (id == d.shown())
            for (int column = 0; column < 3; ++column)
                item->setFont(column, Theme::text_font(13, true));
    }
    tree_->expandAll();
    tree_->resizeColumnToContents(0);
    tree_->resizeColumnToContents(2);
    const auto at = items.find(before);
    tree_->setCurrentItem(at != items.end()           ? at->second
                          : items.contains(d.shown()) ? items.at(d.shown())
                                                      : nullptr);
    tree_->setUpdatesEnabled(true);
}

void RevisionsPanel::show_differences() {
    const Document& d = context_.document;
    const Project& p = d.project();
    table_->setRowCount(0);
    const auto before = p.revisions.find(other());
    if (before == p.revisions.end()) {
        caption_->setText(
            tr("The first revision. Change a value or fit a part, and the next one lists what it "
               "changed and what that does."));
        return;
    }
    caption_->setText(tr("%1 against %2: what differs, then what it does.")
                          .arg(words(p.revision_label(d.shown())), words(p.revision_label(before->first))));
    // what was typed keeps its digits; what follows from it shows as many as it deserves
    const auto add = [&](const Difference& one, bool strong) {
        const int row = table_->rowCount();
        table_->setRowCount(row + 1);
        const auto number = [&](const std::optional<double>& si, const std::string& text) {
            if (!text.empty() || !si)
                return text.empty() ? QStringLiteral("–") : words(text);
            if (strong)
                return one.quantity == Quantity::Count ? fixed(*si, 0)
                                                       : context_.units.number(one.quantity, *si);
            return context_.units.typed(one.quantity, *si);
        };
        table_->set_cell(row, 0, phrase(one.label), false);
        table_->set_cell(row, 1, number(one.before, one.words_before), one.words_before.empty());
        table_->set_cell(row, 2, number(one.after, one.words_after), one.words_after.empty());
        table_->set_cell(row, 3, one.words_after.empty() ? context_.units.unit_name(one.quantity) : QString(),
                         false);
        for (int column = 0; column < 3; ++column)
            table_->item(row, column)->setToolTip(table_->cell(row, column));
        if (strong)
            table_->item(row, 0)->setFont(Theme::text_font(12, true));
    };
    const session::RevisionComparison both = session::compare_revisions(p, before->first, d.shown());
    for (const Difference& one : both.differences)
        add(one, false);
    for (const Difference& one : both.effects)
        add(one, true);
}

void RevisionsPanel::rename(bool reason) {
    const Id id = chosen();
    const auto at = context_.document.project().revisions.find(id);
    if (at == context_.document.project().revisions.end())
        return;
    const QString name = words(at->second.name), why = words(at->second.reason);
    const QString given = dialogs_.ask_words(reason ? tr("Reason") : tr("Name"),
                                             reason ? tr("Why was this revision made?")
                                                    : tr("What shall this revision be called?"),
                                             reason ? why : name);
    if (!given.isEmpty())
        context_.document.name_revision(id, reason ? name : given, reason ? given : why);
}

} // namespace bathmos::app
