// Lines of devices: numbers, units, signs and status as they come, and bytes that are no lines.
#include "core/instrument/instrument_line.h"
#include "core/instrument/line_splitter.h"
#include "support.h"

#include <random>

using namespace bathmos;
using namespace bathmos::test;
using namespace bathmos::instrument;

namespace {

const Channel kHeight{"height", Quantity::Length, "H", "", false, {}};
const Channel kLoad{"load", Quantity::Force, "F", "", false, {}};
const Channel kMass{"mass", Quantity::Mass, "", "", false, {}};

std::optional<double> only(const std::string& line, const Channel& channel) {
    const LineReading reading = read_line(line, {channel});
    return reading.state == LineState::Value ? reading.values_si.front() : std::nullopt;
}

} // namespace

class TstInstrument : public QObject {
    Q_OBJECT

  private slots:
    void two_numbers_of_a_line_are_read_by_what_stands_before_them() {
        for (const char* line : {"H 38.50 mm  F 412.3 N", "F=412.3N;H=38.50mm", "h:+38.50 f: 412.3",
                                 "  H38.50   F412.3 ", "H 3.85 cm F 0.4123 kN", "CH1 H 38.50 CH2 F 412.3"}) {
            const LineReading reading = read_line(line, {kHeight, kLoad});
            QVERIFY2(reading.state == LineState::Value, line);
            NEAR(*reading.values_si[0], 0.0385, 1e-9);
            NEAR(*reading.values_si[1], 412.3, 1e-9);
            QVERIFY(reading.why.empty());
        }
    }
    void a_decimal_comma_is_read_and_a_comma_between_fields_too() {
        NEAR(*only("+0012,34 g", kMass), 0.01234, 1e-12);
        const LineReading both = read_line("38.50,412.3", {{"h", Quantity::Length}, {"f", Quantity::Force}});
        NEAR(*both.values_si[0], 0.0385, 1e-12);
        NEAR(*both.values_si[1], 412.3, 1e-9);
    }
    void units_of_the_line_go_before_the_channels_own() {
        Channel inches{"dial", Quantity::Length, "", "in", false, {}};
        NEAR(*only("0.1000", inches), 2.54e-3, 1e-9);
        NEAR(*only("0.1000 mm", inches), 0.1e-3, 1e-12);
        NEAR(*only("1.5 lb", kMass), 0.680388555, 1e-9);
        NEAR(*only("1.5 lb", kLoad.before.empty() ? kLoad : Channel{"load", Quantity::Force}), 6.672332,
             1e-5);
        NEAR(*only("2 kg", kMass), 2, 1e-12);
        NEAR(*only("350 um", {"dial", Quantity::Length}), 350e-6, 1e-12);
    }
    void signs_may_stand_apart_and_a_device_may_count_the_other_way() {
        NEAR(*only("-  0.25 mm", {"dial", Quantity::Length}), -0.25e-3, 1e-12);
        NEAR(*only("1.25e-1 mm", {"dial", Quantity::Length}), 0.125e-3, 1e-12);
        NEAR(*only("0.25 mm", {"dial", Quantity::Length, "", "", true, {}}), -0.25e-3, 1e-12);
    }
    void tachometers_and_thermometers_are_read_by_their_units_and_letters_before_numbers_are_none() {
        const Channel speed{"speed", Quantity::Speed, "n", "", false, {}},
            oil{"oil", Quantity::Temperature, "T", "", false, {}};
        for (const char* line : {"n 3000 rpm T 84.2 C", "T=84,2 n=3000",
                                 "n 50 Hz; T 84.2 \xC2\xB0"
                                 "C",
                                 "N 3000 T 357.35 K", "n 50 rps T 183.56 F"}) {
            const LineReading reading = read_line(line, {speed, oil});
            QVERIFY2(reading.state == LineState::Value && reading.why.empty(), line);
            NEAR(*reading.values_si[0], 3000, 1e-9);
            NEAR(*reading.values_si[1], 84.2, 1e-9);
        }
        NEAR(*only("12", {"oil", Quantity::Temperature, "", "F", false, {}}), -11.1111, 1e-4);
        NEAR(*only("38.5 C 4", {"height", Quantity::Length}), 0.0385, 1e-12); // what stands before the next
        QVERIFY(!only("T 84.2 mm", oil) && !only("T 1e9", oil) && !only("n 84.2 mm", speed));
    }
    void a_unit_of_another_quantity_is_no_value() {
        const LineReading reading = read_line("12.34 g", {{"dial", Quantity::Length}});
        QVERIFY(reading.state == LineState::Nonsense);
        CONTAINS(reading.why, "dial is in g");
    }
    void what_a_device_does_not_have_just_now_is_left_open() {
        const LineReading reading = read_line("H --- mm  F -2.0 N", {kHeight, kLoad});
        QVERIFY(reading.state == LineState::Value);
        QVERIFY(!reading.values_si[0]);
        NEAR(*reading.values_si[1], -2, 1e-12);
        CONTAINS(reading.why, "height");
    }
    void an_overload_is_told_and_a_word_that_begins_alike_is_none() {
        for (const char* line : {"OL", "  ol N", "OVERLOAD", "H ---- F ----", "++++++"})
            QVERIFY2(read_line(line, {kLoad}).state == LineState::Overload, line);
        QVERIFY(read_line("OLD 12 g", {kMass}).state == LineState::Value);
        QVERIFY(read_line("GOLD", {kMass}).state == LineState::Nonsense);
    }
    void nonsense_is_told_and_never_a_number() {
        for (const char* line : {"", "hello", "1.2.3 g", "99999999999 g", "1e400 g", "\x01\x02\xff", "CH1"}) {
            const LineReading reading = read_line(line, {kMass});
            QVERIFY2(reading.state == LineState::Nonsense, line);
            QVERIFY(reading.values_si.empty());
            QVERIFY(!reading.why.empty());
        }
        const LineReading shown = read_line("\x1b[31mred", {kMass});
        QVERIFY(shown.why.find('\x1b') == std::string::npos); // control bytes stay out of messages
        QVERIFY(read_line("12 g", {}).state == LineState::Nonsense);
    }
    void any_bytes_at_all_are_survived() {
        std::mt19937 draw(7);
        std::uniform_int_distribution<int> byte(0, 255), length(0, 60);
        const std::string alphabet = "0123456789.,-+eE HF:=mgNkin\xC2\xB5\xB0";
        for (int round = 0; round < 20000; ++round) {
            std::string line;
            for (int i = length(draw); i > 0; --i)
                line += round % 2 ? static_cast<char>(byte(draw))
                                  : alphabet[static_cast<std::size_t>(byte(draw)) % alphabet.size()];
            const LineReading reading = read_line(line, {kHeight, kLoad, kMass});
            QVERIFY(reading.values_si.empty() == (reading.state != LineState::Value));
            for (const auto& one : reading.values_si)
                QVERIFY(!one || std::isfinite(*one));
        }
    }
    void lines_come_out_whole_however_their_bytes_arrive() {
        const std::string bytes = "H 1\r\nH 2\n\rH 3\r\n\r\nH 4";
        for (std::size_t step = 1; step < bytes.size(); ++step) {
            LineSplitter splitter;
            std::vector<std::string> lines;
            for (std::size_t i = 0; i < bytes.size(); i += step)
                for (std::string& one : splitter.add(std::string_view(bytes).substr(i, step)))
                    lines.push_back(std::move(one));
            QVERIFY((lines == std::vector<std::string>{"H 1", "H 2", "H 3"})); // the fourth has not ended
            QCOMPARE(splitter.thrown_away(), std::size_t(0));
        }
    }
    void a_line_without_an_end_does_not_grow_for_ever() {
        LineSplitter splitter;
        const std::string flood(1 << 20, 'x');
        QVERIFY(splitter.add(flood).empty());
        QCOMPARE(splitter.thrown_away(), flood.size());
        const auto lines = splitter.add("tail\nH 5\n");
        QVERIFY((lines == std::vector<std::string>{"H 5"}));
    }
};

QTEST_APPLESS_MAIN(TstInstrument)
#include "tst_instrument.moc"
