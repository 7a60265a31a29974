// Packs: what a maker needs stands in them, nothing that names another maker's part, nothing old; an answer
// comes back to the shelf.
#include "io/json/json.h"
#include "session/judged_demo.h"
#include "session/pack/answer.h"
#include "session/pack/other_makers.h"
#include "session/pack/pack.h"

#include <memory>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::session;
using io::Json;

namespace {

const std::string& bytes_of(const Pack& pack, const char* name) {
    const io::PackFile* file = io::find_file(pack.files, name);
    if (!file)
        throw std::runtime_error(name);
    return file->bytes;
}
std::string joined(const std::vector<std::string>& all) {
    std::string out;
    for (const std::string& one : all)
        out += one + "|";
    return out;
}

Part part(PartKind kind, const std::string& name, const std::string& serial) {
    Part out;
    out.kind = kind;
    out.name = name;
    out.serial = serial;
    return out;
}

} // namespace

class TstPack : public QObject {
    Q_OBJECT
    std::unique_ptr<JudgedDemo> demo_;
    PackAsked asked_;
    Pack pack() const { return pack_of(demo_->input, demo_->facts, asked_); }

  private slots:
    void initTestCase() { demo_ = std::make_unique<JudgedDemo>(); }
    void init() {
        asked_ = {Audience::Spring, "Which spring holds the valve to 8600?", "R. Sample", "2026-04-20",
                  UnitSystem::Metric};
    }

    void a_pack_holds_page_numbers_traces_and_a_form() {
        const Pack made = pack();
        QCOMPARE(made.files.size(), std::size_t(6));
        CONTAINS(bytes_of(made, "page.html"), "Which spring holds the valve to 8600?");
        const Json numbers = io::parse_json(bytes_of(made, "numbers.json"));
        NEAR(numbers["limit_rpm"]["computed"].get<double>(), *demo_->facts.file.model->limit_rpm, 0.5);
        NEAR(numbers["limit_rpm"]["measured"].get<double>(), *demo_->facts.file.rig->limit_rpm, 0.5);
        NEAR(numbers["at_valve"]["seat_load_N"].get<double>(), 794, 1);
        // Loads by height: the first is the seat's, a rate in between as two springs have it.
        const Json& loads = numbers["spring_loads_mm_N"];
        NEAR(loads[0][1].get<double>(), numbers["at_valve"]["seat_load_N"].get<double>(), 0.6);
        QVERIFY(loads.size() > 20 && loads[5][1] > loads[0][1]);
        CONTAINS(bytes_of(made, "motions.h5").substr(0, 8), "HDF");
        CONTAINS(bytes_of(made, "lift.csv"), "speed_rpm,crank_deg,asked_mm,computed_mm,measured_mm");
    }

    void traces_are_those_of_the_run_at_its_speeds() {
        const auto lines =
            QString::fromStdString(bytes_of(pack(), "lift.csv")).split('\n', Qt::SkipEmptyParts);
        const RigRun* run = nullptr;
        for (const ReducedRun& one : demo_->facts.runs)
            if (one.id == demo_->input.of.rig_run)
                run = one.run.get();
        QVERIFY(run);
        const std::size_t points = (kGridPoints + 1) / 2;
        QCOMPARE(std::size_t(lines.size()) - 1, run->steps.size() * points);
        const RigStep& first = run->steps.front();
        const QStringList nose = lines[int(1 + points / 2)].split(',');
        NEAR(nose[1].toDouble(), 0, 0.01);
        NEAR(nose[2].toDouble(), demo_->facts.rigid_m[kGridPoints / 2] * 1e3, 1e-4);
        NEAR(nose[4].toDouble(), first.lift_m[kGridPoints / 2] * 1e3, 1e-4);
        NEAR(nose[0].toDouble(), first.speed_rpm, 0.5);
    }

    // Whoever it goes to: no name of another maker's part in any file that a person reads.
    void no_pack_names_another_makers_part() {
        for (const AudienceInfo& audience : audiences()) {
            asked_.audience = audience.audience;
            const Pack made = pack();
            std::string all;
            for (const io::PackFile& file : made.files)
                if (!file.name.ends_with(".h5"))
                    all += QString::fromStdString(file.bytes).toLower().toStdString();
            for (const auto& [id, part] : demo_->store.project().parts) {
                const bool own = audience.own.contains(part.kind);
                const std::string name = QString::fromStdString(part.name).toLower().toStdString();
                if (!own)
                    QVERIFY2(!contains(all, name) || name.size() < 3, part.name.c_str());
            }
            if (audience.audience == Audience::Pushrod)
                CONTAINS(all, "9.53 x 0.89 thin wall");
        }
    }

    void names_in_the_senders_words_are_masked_and_told() {
        asked_.question = "Our A22 INTAKE, GRIND 4 wants more. The winter set bends.";
        const Pack made = pack();
        const std::string& page = bytes_of(made, "page.html");
        QVERIFY(!contains(page, "GRIND 4") && !contains(page, "winter set"));
        CONTAINS(page, "[part of another maker] wants more");
        CONTAINS(joined(made.told), "A22 INTAKE, GRIND 4");
        asked_.language.translate = [](std::string_view text) {
            return text == "[part of another maker]" ? "[fremdes Teil]" : std::string(text);
        };
        CONTAINS(bytes_of(pack(), "page.html"), "[fremdes Teil] wants more");
        asked_.language = {};
        asked_.audience = Audience::Lobe; // it is the lobe maker's own
        CONTAINS(bytes_of(pack(), "page.html"), "A22 INTAKE, GRIND 4");
    }

    void what_was_tried_with_other_parts_is_told_without_them() {
        const std::string page = bytes_of(pack(), "page.html");
        CONTAINS(page, "Pushrod changed");
        QVERIFY(!contains(page, "1.24 →") && !contains(page, "1.24 -&gt;"));
        asked_.audience = Audience::Pushrod;
        CONTAINS(bytes_of(pack(), "page.html"), "1.24");
    }

    // Where nobody says why, the program writes the number that changed: not for other makers' eyes.
    void reasons_that_the_program_wrote_tell_no_number_of_another_makers_part() {
        ReportInput input = demo_->input;
        auto& revisions = input.of.project.revisions;
        std::string wall;
        for (const Difference& one : differences(revisions.at(1).assembly, revisions.at(2).assembly))
            if (one.key == "pushrod.wall_mm")
                wall = in_words(one);
        CONTAINS(wall, "0.89");
        revisions.at(2).reason = wall + " (+2)";
        const std::string page = bytes_of(pack_of(input, demo_->facts, asked_), "page.html");
        QVERIFY(!contains(page, "0.89") && !contains(page, "1.24"));
        CONTAINS(page, "Pushrod changed (+2)");
        asked_.audience = Audience::Pushrod;
        CONTAINS(bytes_of(pack_of(input, demo_->facts, asked_), "page.html"), "0.89");
    }

    void a_pack_asks_something() {
        asked_.question = " \n";
        QCOMPARE(problem_of([&] { pack(); }).location, std::string("question"));
    }

    void stops_are_named() {
        ReportFacts facts = demo_->facts;
        facts.file.findings.push_back({Severity::Stop, "springs", "coils meet at full lift", "they break"});
        const Pack made = pack_of(demo_->input, facts, asked_);
        CONTAINS(bytes_of(made, "page.html"), "coils meet at full lift");
        CONTAINS(joined(made.told), "STOP stands: coils meet");
        CONTAINS(bytes_of(made, "manifest.json"), "coils meet");
    }

    void a_pack_is_checked_before_it_goes() {
        const Project& project = demo_->store.project();
        Pack made = pack();
        QCOMPARE(joined(pack_problems(made.files, project)), std::string());
        // Somebody edits a file, loses one, puts one in.
        Pack edited = made;
        edited.files[0].bytes += " Intake 46, hollow stem";
        CONTAINS(joined(pack_problems(edited.files, project)), "page.html was changed");
        CONTAINS(joined(pack_problems(edited.files, project)), "another maker's part");
        // A name that HTML or JSON writes otherwise is found all the same.
        Project odd = project;
        Part valve;
        valve.kind = PartKind::Valve;
        valve.name = "Hard & \"Hollow\"";
        odd.parts[9999] = valve;
        Pack named = made;
        named.files[0].bytes += "<p>Hard &amp; &quot;Hollow&quot; it is</p>";
        CONTAINS(joined(pack_problems(named.files, odd)), "names \"hard & ");
        const OtherMakers others(odd, {PartKind::Spring});
        QCOMPARE(others.found_in("{\"a\": \"hard & \\\"hollow\\\"\"}").size(), std::size_t(1));
        QCOMPARE(others.found_in("hard and hollow").size(), std::size_t(0));
        edited = made;
        edited.files.erase(edited.files.begin() + 2);
        CONTAINS(joined(pack_problems(edited.files, project)), "lift.csv is missing");
        edited = made;
        edited.files.push_back({"rods.csv", ""});
        CONTAINS(joined(pack_problems(edited.files, project)), "rods.csv is no file of the pack");
        edited = made;
        edited.files.push_back(made.files.front()); // a zip may hold a name twice
        CONTAINS(joined(pack_problems(edited.files, project)), "page.html is no file of the pack");
        // The project goes on: a run more, another train, another limit set.
        Project later = project;
        Entry run = later.of(EntryKind::RigRun).begin()->second;
        run.revision = 2;
        later.of(EntryKind::RigRun)[99] = run;
        CONTAINS(joined(pack_problems(made.files, later)), "gone on since");
        later = project;
        later.revisions.at(2).assembly.train.installed_height_m += 1e-4;
        CONTAINS(joined(pack_problems(made.files, later)), "gone on since");
        later = project;
        later.revisions[50] = later.revisions.at(2);
        later.builds.at(later.revisions.at(2).build).head = 50;
        CONTAINS(joined(pack_problems(made.files, later)), "in hand by now");
    }

    void what_is_no_pack_is_refused() {
        const Project& project = demo_->store.project();
        CONTAINS(problem_of([&] { pack_problems({}, project); }).location, "manifest.json");
        for (const char* text : {"[]", "{\"format\":\"bathmos-pack\"}", "{", "null"})
            QVERIFY(!problem_of([&] { pack_problems({{"manifest.json", text}}, project); }).what.empty());
        CONTAINS(problem_of([&] {
                     pack_problems(
                         {{"manifest.json",
                           R"({"format":"bathmos-pack","revision":77,"files":[],"audience":"spring"})"}},
                         project);
                 }).what,
                 "none of this project");
    }

    void common_words_and_numbers_are_no_secret() {
        Project project;
        project.parts[1] = part(PartKind::Pushrod, "pushrod", "12");
        project.parts[2] = part(PartKind::Rocker, "Alder 160", "A7");
        project.parts[3] =
            part(PartKind::Spring, "Alder 160", "S-1"); // the audience's own bears that name too
        project.parts[4] = part(PartKind::Valve, "Elm 46", "V-9");
        const OtherMakers others(project, {PartKind::Spring});
        std::set<std::string> masked;
        QCOMPARE(
            others.masked("The pushrod of 12 mm, Alder 160, ELM 46; Elm 460 and Helm 46.", masked),
            std::string("The pushrod of 12 mm, Alder 160, [part of another maker]; Elm 460 and Helm 46."));
        QCOMPARE(masked.size(), std::size_t(1));
        QCOMPARE(others.masked("elm 46 elm 46", masked),
                 std::string("[part of another maker] [part of another maker]"));
        QCOMPARE(joined(others.found_in("x V-9")), std::string("v-9|"));
        QVERIFY(others.found_in("V-98 and pushrod").empty());
    }

    void an_answer_comes_back_to_the_shelf_as_one_edit() {
        std::string form = bytes_of(pack(), "answer.csv");
        QVERIFY(!contains(form, "run_cycles") && !contains(form, "rated_cycles")); // the shop's own
        const Project& project = demo_->store.project();
        // As it went out it says something already on the shelf, but for the facts that stayed at home.
        const std::string wire = "springs/0/wire_mm,4.7";
        CONTAINS(form, wire);
        form.replace(form.find(wire), wire.size(), "springs/0/wire_mm,4.8");
        const Answer answer = answer_of(project, form, "answer.csv");
        QCOMPARE(answer.parts.size(), std::size_t(1));
        CONTAINS(answer.parts[0].name, "(answer)");
        QVERIFY(answer.parts[0].kind == PartKind::Spring);
        NEAR(std::get<CoilGeometry>(answer.parts[0].piece.springs[0].kind).wire_m, 4.8e-3, 1e-12);
        const std::size_t parts = project.parts.size(), lines = project.of(EntryKind::Log).size();
        const auto ids = keep_answer(demo_->store, answer,
                                     answer_note(answer, "answer.csv", "the maker", "2026-05-02T00:00:00Z"));
        QCOMPARE(project.parts.size(), parts + 1);
        QCOMPARE(project.of(EntryKind::Log).size(), lines + 1);
        QVERIFY(project.parts.at(ids[0]) == answer.parts[0]);
        QCOMPARE(answer_of(project, form, "answer.csv").known, std::size_t(1)); // sent twice
        demo_->store.undo();
        QCOMPARE(project.parts.size(), parts);
        QCOMPARE(project.of(EntryKind::Log).size(), lines);
    }

    void an_answer_that_cannot_be_is_refused() {
        const Project& project = demo_->store.project();
        QCOMPARE(problem_of([&] { answer_of(project, "rubbish", "a.csv"); }).source, std::string("a.csv"));
        std::string form = bytes_of(pack(), "answer.csv");
        const std::string wire = "springs/0/wire_mm,4.7";
        form.replace(form.find(wire), wire.size(), "springs/0/wire_mm,-4.7");
        QVERIFY(!problem_of([&] { answer_of(project, form, "a.csv"); }).what.empty());
    }
};

QTEST_APPLESS_MAIN(TstPack)
#include "tst_pack.moc"
