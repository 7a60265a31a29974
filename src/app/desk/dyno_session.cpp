#include "app/desk/dyno_session.h"

#include "app/text/words.h"

#include <algorithm>

namespace bathmos::app {

DynoSession::DynoSession(Document& document, QObject* parent) : QObject(parent), document_(document) {
    connect(&document_, &Document::records_changed, this, &DynoSession::follow);
    connect(&document_, &Document::revision_shown, this, &DynoSession::follow);
}

void DynoSession::set_corrected(bool on) {
    corrected_ = on;
    follow();
}

void DynoSession::follow() {
    std::map<Id, Entry> now;
    Id revision = 0;
    if (document_.has_train()) {
        revision = document_.shown();
        now = session::pulls_of_build(document_.project(), document_.build());
    }
    if (now == followed_ && corrected_ == followed_corrected_) {
        const bool renamed = relabel();
        if (renamed && revision == followed_revision_)
            emit changed();
        if (revision != followed_revision_) {
            followed_revision_ = revision;
            choose_usual();
            emit changed();
        }
        return;
    }
    followed_ = now;
    followed_revision_ = revision;
    followed_corrected_ = corrected_;
    work_.stop();
    if (now.empty())
        return take({});
    work_.start(
        [this, correct = corrected_,
         taken = session::take_states(document_.project(), document_.build(),
                                      [this](Id id) { return document_.trace(id); })](
            const std::stop_token& stop, const Background::Post& post) mutable {
            auto analysed = session::analyse_states(std::move(taken), correct, stop);
            post([this, analysed = std::move(analysed)] { take(analysed); });
        },
        [this](const QString& failure) {
            if (!failure.isEmpty())
                take({{}, failure.toStdString()});
            emit changed();
        });
    emit changed();
}

const ShownPull* DynoSession::find(Id entry) const {
    for (const DynoState& state : states_)
        for (const auto& pull : state.pulls)
            if (pull->entry == entry)
                return pull.get();
    return nullptr;
}

QString DynoSession::label_of(const Entry& entry) const {
    return words(session::state_label(document_.project(), entry));
}

// Labels hold names of revisions, which may change while the pulls do not.
bool DynoSession::relabel() {
    bool any = false;
    for (DynoState& state : states_) {
        const auto entry = followed_.find(state.pulls.front()->entry);
        if (entry == followed_.end())
            continue;
        const std::string label = session::state_label(document_.project(), entry->second);
        any = any || label != state.label;
        state.label = label;
    }
    return any;
}

void DynoSession::take(session::AnalysedStates analysed) {
    states_ = std::move(analysed.states);
    relabel();
    trouble_ = phrase(analysed.trouble);
    choose_usual();
    emit changed();
}

// The revision in hand's latest state, against the one before it.
void DynoSession::choose_usual() {
    choice_ = session::usual_choice(states_, document_.project(), document_.shown());
}

void DynoSession::choose(int state, int against) {
    choice_ = {state, against == state ? -1 : against};
    emit changed();
}

std::optional<StateDifference> DynoSession::change() const {
    return session::change_between(compared(), shown());
}

} // namespace bathmos::app
