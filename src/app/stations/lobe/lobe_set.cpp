#include "app/stations/lobe/lobe_set.h"

#include "app/text/words.h"

namespace bathmos::app {

namespace {

struct Dress {
    Role role;
    Stroke stroke;
};
constexpr Dress kDresses[kMostDrawn] = {{Role::Ink, Stroke::Solid},        {Role::Third, Stroke::Solid},
                                        {Role::LimitMark, Stroke::Dashed}, {Role::Kinematic, Stroke::Dashed},
                                        {Role::Third, Stroke::Dashed},     {Role::Ink, Stroke::Dashed}};

} // namespace

LobeSet::LobeSet(Context context, QObject* parent) : QObject(parent), context_(context) {
    connect(&context_.document, &Document::changed, this, &LobeSet::follow);
    connect(&context_.document, &Document::records_changed, this, &LobeSet::follow);
}

void LobeSet::wake(bool on) {
    awake_ = on;
    if (on && missed_)
        follow();
}

void LobeSet::follow() {
    missed_ = !awake_;
    if (!awake_)
        return;
    const Document& document = context_.document;
    known_.clear();
    for (LoadedLobe& lobe : lobes_)
        known_[lobe.key] = std::move(lobe);
    lobes_.clear();
    if (document.has_train()) {
        const auto* fitted = document.assembly().find(PartKind::Lobe);
        add({LoadedLobe::From::InHand,
             document.build(),
             QStringLiteral("hand"),
             {},
             document.train().lobe,
             fitted ? fitted->facts : Facts{}});
        const Project& project = document.project();
        for (const auto& [id, build] : project.builds) {
            if (id == document.build() || !project.revisions.contains(build.head))
                continue;
            const Assembly& assembly = project.revisions.at(build.head).assembly;
            const auto* part = assembly.find(PartKind::Lobe);
            add({LoadedLobe::From::Build,
                 id,
                 QStringLiteral("build %1").arg(id),
                 {},
                 assembly.train.lobe,
                 part ? part->facts : Facts{}});
        }
        for (const auto& [id, part] : project.parts)
            if (part.kind == PartKind::Lobe &&
                !(fitted && fitted->part == id && part.piece.lobe == document.train().lobe)) {
                add({LoadedLobe::From::Shelf,
                     id,
                     QStringLiteral("part %1").arg(id),
                     {},
                     part.piece.lobe,
                     part.facts});
                if (!part.name.empty())
                    lobes_.back().name = words(part.name);
            }
    }
    known_.clear();
    if (!find(chosen_))
        chosen_ = QStringLiteral("hand");
    dress();
    emit changed();
    emit chosen_changed();
}

void LobeSet::add(LoadedLobe lobe) {
    lobe.name = lobe.lobe.name.empty() ? tr("lobe without a name") : words(lobe.lobe.name);
    if (lobe.from == LoadedLobe::From::InHand)
        lobe.name = tr("%1 (in hand)").arg(lobe.name);
    lobe.shown =
        lobe.from == LoadedLobe::From::InHand ? !hidden_.contains(lobe.key) : wanted_.contains(lobe.key);
    if (const auto last = known_.find(lobe.key); last != known_.end() && last->second.lobe == lobe.lobe) {
        lobe.curve = std::move(last->second.curve);
        lobe.trouble = last->second.trouble;
    } else {
        try {
            lobe.curve = curve_of(lobe.lobe);
        } catch (const InputError& error) {
            lobe.trouble = phrase(error.what());
        }
    }
    lobes_.push_back(std::move(lobe));
}

void LobeSet::dress() {
    int drawn = 0;
    for (LoadedLobe& lobe : lobes_)
        if (lobe.shown && lobe.curve && drawn < kMostDrawn) {
            lobe.role = kDresses[drawn].role;
            lobe.stroke = kDresses[drawn].stroke;
            ++drawn;
        }
}

const LoadedLobe* LobeSet::find(const QString& key) const {
    for (const LoadedLobe& lobe : lobes_)
        if (lobe.key == key)
            return &lobe;
    return nullptr;
}

std::vector<const LoadedLobe*> LobeSet::shown() const {
    std::vector<const LoadedLobe*> out;
    for (const LoadedLobe& lobe : lobes_)
        if (lobe.shown && lobe.curve && static_cast<int>(out.size()) < kMostDrawn)
            out.push_back(&lobe);
    return out;
}

void LobeSet::choose(const QString& key) {
    if (key == chosen_ || !find(key))
        return;
    chosen_ = key;
    emit chosen_changed();
}

void LobeSet::show_lobe(const QString& key, bool on) {
    for (LoadedLobe& lobe : lobes_)
        if (lobe.key == key && lobe.shown != on) {
            lobe.shown = on;
            if (lobe.from == LoadedLobe::From::InHand)
                on ? void(hidden_.remove(key)) : void(hidden_.insert(key));
            else
                on ? void(wanted_.insert(key)) : void(wanted_.remove(key));
            dress();
            emit changed();
            return;
        }
}

std::optional<LobeMotion> LobeSet::motion(const LoadedLobe& lobe, bool at_valve) const {
    if (!lobe.curve)
        return std::nullopt;
    if (!at_valve)
        return LobeMotion(*lobe.curve);
    const Project& project = context_.document.project();
    try {
        Train train = lobe.from == LoadedLobe::From::Build
                          ? project.revisions.at(project.builds.at(lobe.id).head).assembly.train
                          : context_.document.train();
        train.lobe = lobe.lobe;
        return LobeMotion(RigidMotion(train, *lobe.curve));
    } catch (const InputError&) {
        return std::nullopt;
    }
}

Lobe LobeSet::in_hand(const LoadedLobe& loaded) const {
    Lobe lobe = loaded.lobe;
    lobe.name = loaded.name.toStdString();
    if (loaded.from == LoadedLobe::From::Shelf && context_.document.has_train()) {
        const Lobe& hand = context_.document.train().lobe;
        lobe.follower = hand.follower;
        lobe.follower_radius_m = hand.follower_radius_m;
        if (!(lobe.base_radius_m > 0))
            lobe.base_radius_m = hand.base_radius_m;
    }
    return lobe;
}

bool LobeSet::can_edit_chosen() const {
    const LoadedLobe* lobe = chosen();
    return lobe && lobe->from != LoadedLobe::From::Build;
}

void LobeSet::edit_chosen(const QString& what, const QString& merge_key,
                          const std::function<void(Lobe&)>& apply) {
    const LoadedLobe* lobe = chosen();
    if (!lobe || !can_edit_chosen())
        return;
    if (lobe->from == LoadedLobe::From::InHand) {
        Train next = context_.document.train();
        apply(next.lobe);
        if (!(next == context_.document.train()))
            context_.document.edit(next, what, merge_key);
        return;
    }
    Part part = context_.document.project().parts.at(lobe->id);
    apply(part.piece.lobe);
    context_.document.set_part(lobe->id, part, tr("%1 of %2").arg(what, lobe->name), merge_key);
}

} // namespace bathmos::app
