#include "app/desk/document.h"

#include "app/text/words.h"

namespace bathmos::app {

namespace {

QString path_text(const std::filesystem::path& path) {
    return QFile::decodeName(QByteArray::fromStdString(path.string()));
}

} // namespace

Document::Document(QString draft_path, QObject* parent)
    : QObject(parent), session_(native(draft_path), [this](session::Event event) { pass_on(event); }) {}

void Document::pass_on(session::Event event) {
    switch (event) {
    case session::Event::Train:
        return emit changed();
    case session::Event::RevisionShown:
        return emit revision_shown();
    case session::Event::Records:
        return emit records_changed();
    case session::Event::Judged:
        return emit judged();
    case session::Event::Range:
        return emit range_changed();
    case session::Event::Limits:
        return emit limits_changed();
    case session::Event::File:
        return emit file_changed();
    }
}

// Whatever was typed goes back to what is kept. The train did not change, so nothing is computed anew: a
// result that arrived could else be refused, asked for again and refused without end.
void Document::tell_refused(const QString& why, const QString& said) {
    emit refused(said.isEmpty() ? why : said.arg(why));
    emit put_back();
    emit records_changed();
}

bool Document::attempt(const std::function<void()>& edit, const QString& said) {
    try {
        edit();
        return true;
    } catch (const io::FileChanged& error) {
        tell_refused(phrase(error.what()), said);
        emit copy_advised();
    } catch (const std::exception& error) { // InputError, or what nobody foresaw: the project stays as it is
        tell_refused(phrase(error.what()), said);
    }
    return false;
}

// ---- the file

QString Document::path() const {
    return path_text(session_.path());
}
QString Document::file() const {
    return path_text(session_.file());
}

void Document::open(const QString& path) {
    if (const std::string trouble = session_.open(native(path)); !trouble.empty())
        emit refused(phrase(trouble));
}
void Document::set_new(const Train& train) {
    if (const std::string trouble = session_.set_new(train); !trouble.empty())
        emit refused(phrase(trouble));
}
void Document::keep_as(const QString& path) {
    session_.keep_as(native(path));
}
void Document::export_train(const QString& path) const {
    session_.export_train(native(path));
}

// ---- the train in hand

const TrainFigures* Document::figures() const {
    return session_.facts().figures ? &*session_.facts().figures : nullptr;
}
const RigidMotion* Document::rigid() const {
    return session_.facts().rigid ? &*session_.facts().rigid : nullptr;
}

void Document::set_limits(const LimitSet& set, const QString& reason) {
    attempt([&] { session_.set_limits(set, reason.toStdString()); }, tr("The limits were not changed. %1"));
}

void Document::show(Id revision) {
    attempt([&] { session_.show(revision); });
}

// ---- edits

void Document::edit(const Train& next, const QString& what, const QString& merge_key) {
    edit(Assembly{next, assembly().parts}, what, merge_key);
}
void Document::edit(const Assembly& next, const QString& what, const QString& merge_key) {
    attempt([&] { session_.edit(next, what.toStdString(), merge_key.toStdString()); },
            tr("The edit was not kept. %1"));
}
void Document::undo() {
    attempt([&] { session_.undo(); });
}
void Document::redo() {
    attempt([&] { session_.redo(); });
}

Id Document::add_part(const Part& part) {
    Id id = 0;
    attempt([&] { id = session_.add_part(part); });
    return id;
}
void Document::add_parts(const std::vector<Part>& parts) {
    attempt([&] { session_.add_parts(parts); });
}

void Document::take_answer(const session::Answer& answer, const Entry& note) {
    attempt([&] { session_.take_answer(answer, note); });
}
void Document::set_part(Id id, const Part& part) {
    attempt([&] { session_.set_part(id, part); });
}
void Document::set_part(Id id, const Part& part, const QString& what, const QString& merge_key) {
    attempt([&] { session_.set_part(id, part, what.toStdString(), merge_key.toStdString()); });
}
bool Document::remove_part(Id id) {
    return attempt([&] { session_.remove_part(id); });
}
void Document::fit_part(Id id) {
    attempt([&] { session_.fit_part(id); });
}
void Document::shelve_parts() {
    attempt([&] { session_.shelve_parts(); });
}
Id Document::add_engine(const Engine& engine) {
    Id id = 0;
    attempt([&] { id = session_.add_engine(engine); });
    return id;
}
void Document::set_engine(Id id, const Engine& engine) {
    attempt([&] { session_.set_engine(id, engine); });
}
void Document::set_build(Id id, const Build& build) {
    attempt([&] { session_.set_build(id, build); });
}
void Document::add_build(const Build& build, const Assembly& first) {
    attempt([&] { session_.add_build(build, first); });
}
void Document::name_revision(Id id, const QString& name, const QString& reason) {
    attempt([&] { session_.name_revision(id, name.toStdString(), reason.toStdString()); });
}
void Document::close_checks(EntryKind kind, const std::vector<std::string>& keys, const QString& text,
                            const std::map<std::string, double>& numbers) {
    attempt([&] {
        session_.close_checks(kind, keys, text.toStdString(), numbers,
                              qEnvironmentVariable("USER").toStdString());
    });
}
void Document::add_rig_run(const QString& name, const io::PackedTrace& trace, bool reversed) {
    if (has_train() && read_only_why().isEmpty())
        attempt([&] { session_.add_rig_run(name.toStdString(), trace, reversed); },
                tr("The run was read but not kept. %1"));
}
bool Document::add_pulls(const QString& file, const std::vector<session::NotedPull>& pulls) {
    return attempt([&] { session_.add_pulls(file.toStdString(), pulls); },
                   tr("The pulls were read but not kept. %1"));
}
Id Document::add_entry(EntryKind kind, const Entry& entry, const QString& what) {
    Id id = 0;
    attempt([&] { id = session_.add_entry(kind, entry, what.toStdString()); });
    return id;
}
std::vector<Id> Document::add_entries(EntryKind kind, const std::vector<Entry>& entries,
                                      const QString& what) {
    std::vector<Id> out;
    attempt([&] { out = session_.add_entries(kind, entries, what.toStdString()); });
    return out;
}
void Document::decide(const Entry& verdict, const Assembly& next, const QString& reason) {
    attempt([&] { session_.decide(verdict, next, reason.toStdString()); });
}
bool Document::settle_sheet(Id id, const Entry& sheet, const Assembly& next) {
    return attempt([&] { session_.settle_sheet(id, sheet, next); });
}
void Document::set_entry(EntryKind kind, Id id, const Entry& entry, const QString& what) {
    attempt([&] { session_.set_entry(kind, id, entry, what.toStdString()); });
}
void Document::remove_entry(EntryKind kind, Id id, const QString& what) {
    attempt([&] { session_.remove_entry(kind, id, what.toStdString()); });
}
std::vector<Id> Document::add_lobes(const QString& file, const std::vector<GaugedPart>& lobes) {
    std::vector<Id> out;
    attempt([&] { out = session_.add_lobes(file.toStdString(), lobes); },
            tr("The lobes were read but not kept. %1"));
    return out;
}
void Document::note_prediction(const Prediction& prediction) {
    try {
        session_.note_prediction(prediction);
    } catch (const io::FileChanged& error) { // no edit of anybody's: nothing to put back
        emit refused(phrase(error.what()));
        emit copy_advised();
    } catch (const std::exception& error) {
        emit refused(phrase(error.what()));
    }
}

} // namespace bathmos::app
