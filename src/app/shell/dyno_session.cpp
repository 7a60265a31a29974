#include "app/shell/dyno_session.h"

#include "io/dyno/pull_file.h"
#include "io/verdict/case_input.h"

#include <algorithm>

namespace bathmos::app {

namespace {

// A pull of the project, ready to be read off the window's thread.
struct Wanted {
    Id entry = 0;
    Entry record;
    QString label;
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
    QString trouble;
    for (const auto& [id, entry] : now)
        try {
            QString label = QString::fromStdString(document_.project().revision_label(entry.revision));
            if (const std::string changed = io::state_of(entry); !changed.empty())
                label += QStringLiteral(" · ") + QString::fromStdString(changed);
            wanted.push_back({id, entry, label, document_.trace(entry.traces.front())});
        } catch (const InputError& error) {
            trouble += QString::fromStdString(error.what()) + QLatin1Char(' ');
        }
    work_.start(
        [this, wanted = std::move(wanted), trouble, correct = corrected_](const std::stop_token& stop,
                                                                          const Background::Post& post) {
            std::vector<DynoState> states;
            QString words = trouble;
            for (const Wanted& one : wanted) {
                const auto pull = shown_pull(one, correct, stop, words);
                if (!pull)
                    continue;
                auto at = std::find_if(states.begin(), states.end(), [&](const DynoState& s) {
                    return s.revision == one.record.revision && s.label == one.label;
                });
                if (at == states.end())
                    at = states.insert(states.end(), DynoState{one.record.revision, one.label, {}, {}, {}});
                at->pulls.push_back(pull);
            }
            for (DynoState& state : states)
                finish(state);
            post([this, states = std::move(states), words] { take(states, words); });
        },
        [this](const QString& failure) {
            if (!failure.isEmpty())
                take({}, failure);
            emit changed();
        });
    emit changed();
}

void DynoSession::take(std::vector<DynoState> states, const QString& trouble) {
    states_ = std::move(states);
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
