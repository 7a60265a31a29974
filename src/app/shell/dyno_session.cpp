#include "app/shell/dyno_session.h"

#include "io/dyno/pull_file.h"
#include "io/verdict/case_input.h"

#include <algorithm>

namespace bathmos::app {

namespace {

// A pull of the project, ready to be read off the window's thread; `state` is its place in the list of
// states.
struct Wanted {
    Id entry = 0;
    Entry record;
    std::size_t state = 0;
    io::PackedTrace trace;
};

std::shared_ptr<const ShownPull> shown_pull(const Wanted& wanted, bool correct, const std::stop_token& stop,
                                            QString& trouble) {
    auto out = std::make_shared<ShownPull>();
    out->entry = wanted.entry;
    try {
        const bool already = wanted.record.numbers.contains("corrected");
        out->pull = io::pull_of(io::unpacked(wanted.trace), already);
        out->pull.name = wanted.record.name;
        if (correct && !already) {
            out->correction = j1349(out->pull);
            if (!out->correction) {
                trouble +=
                    DynoSession::tr("%1 cannot be corrected: air temperature or barometer were not logged. ")
                        .arg(QString::fromStdString(wanted.record.name));
                return nullptr;
            }
            out->pull = corrected(std::move(out->pull), *out->correction);
        } else if (!correct && already) {
            trouble += DynoSession::tr("%1 was corrected by the dyno: shown with the corrected ones only. ")
                           .arg(QString::fromStdString(wanted.record.name));
            return nullptr;
        }
        out->analysis = analyse(out->pull, stop);
        out->tests = test_confounders(out->pull, out->analysis);
        return out;
    } catch (const InputError& error) {
        trouble += QString::fromStdString(error.in(wanted.record.name).what()) + QLatin1Char(' ');
        return nullptr;
    }
}

void finish(DynoState& state) {
    std::vector<const PullAnalysis*> pulls;
    for (const auto& pull : state.pulls)
        pulls.push_back(&pull->analysis);
    state.first_break = break_of_state(pulls);
    try {
        state.curve = state_curve(pulls);
    } catch (const InputError&) {
        state.curve.reset();
    }
}

} // namespace

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
        const Id build = document_.project().revisions.at(revision).build;
        for (const auto& [id, entry] : document_.project().of(EntryKind::DynoPull)) {
            const auto made = document_.project().revisions.find(entry.revision);
            if (!entry.traces.empty() && made != document_.project().revisions.end() &&
                made->second.build == build)
                now[id] = entry;
        }
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
        return take({}, {});
    std::vector<Wanted> wanted;
    std::vector<DynoState> states;
    QString trouble;
    const Project& project = document_.project();
    for (Id made : project.revisions_of(project.revisions.at(revision).build))
        for (const io::PullState& state : io::pull_states(project, made)) {
            states.push_back({made, label_of(now.at(state.pulls.front())), {}, {}, {}});
            for (Id id : state.pulls)
                try {
                    wanted.push_back(
                        {id, now.at(id), states.size() - 1, document_.trace(now.at(id).traces.front())});
                } catch (const InputError& error) {
                    trouble += QString::fromStdString(error.what()) + QLatin1Char(' ');
                }
        }
    work_.start(
        [this, wanted = std::move(wanted), states, trouble,
         correct = corrected_](const std::stop_token& stop, const Background::Post& post) mutable {
            for (const Wanted& one : wanted)
                if (const auto pull = shown_pull(one, correct, stop, trouble))
                    states[one.state].pulls.push_back(pull);
            std::erase_if(states, [](const DynoState& state) { return state.pulls.empty(); });
            for (DynoState& state : states)
                finish(state);
            post([this, states = std::move(states), trouble] { take(states, trouble); });
        },
        [this](const QString& failure) {
            if (!failure.isEmpty())
                take({}, failure);
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
    QString out = QString::fromStdString(document_.project().revision_label(entry.revision));
    if (const auto changed = entry.words.find("changed"); changed != entry.words.end())
        out += QStringLiteral(" · ") + QString::fromStdString(changed->second);
    return out;
}

// Labels hold names of revisions, which may change while the pulls do not.
bool DynoSession::relabel() {
    bool any = false;
    for (DynoState& state : states_) {
        const auto entry = followed_.find(state.pulls.front()->entry);
        if (entry == followed_.end())
            continue;
        const QString label = label_of(entry->second);
        any = any || label != state.label;
        state.label = label;
    }
    return any;
}

void DynoSession::take(std::vector<DynoState> states, const QString& trouble) {
    states_ = std::move(states);
    relabel();
    trouble_ = trouble;
    choose_usual();
    emit changed();
}

// The revision in hand's latest state, against the one before it.
void DynoSession::choose_usual() {
    state_ = against_ = -1;
    std::vector<Id> line;
    if (document_.has_train())
        line = document_.project().line_to(document_.shown());
    const auto place = [&](const DynoState& s) {
        return std::find(line.begin(), line.end(), s.revision) - line.begin();
    };
    for (int i = 0; i < static_cast<int>(states_.size()); ++i) {
        const auto here = place(states_[static_cast<std::size_t>(i)]);
        if (here >= static_cast<std::ptrdiff_t>(line.size()))
            continue; // of another branch
        if (state_ < 0 || here >= place(states_[static_cast<std::size_t>(state_)])) {
            against_ = state_;
            state_ = i;
        } else if (against_ < 0 || here >= place(states_[static_cast<std::size_t>(against_)])) {
            against_ = i;
        }
    }
    if (state_ < 0 && !states_.empty())
        state_ = static_cast<int>(states_.size()) - 1;
}

void DynoSession::choose(int state, int against) {
    state_ = state;
    against_ = against == state ? -1 : against;
    emit changed();
}

std::optional<StateDifference> DynoSession::change() const {
    if (!shown() || !compared() || !shown()->curve || !compared()->curve)
        return std::nullopt;
    try {
        return difference(*compared()->curve, *shown()->curve);
    } catch (const InputError&) {
        return std::nullopt;
    }
}

} // namespace bathmos::app
