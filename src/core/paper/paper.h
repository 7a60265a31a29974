// A page for other people, as values: headings, words, tables, pictures. What stands there, not how it looks;
// io/paper makes HTML of it, print makes PDF.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

namespace bathmos::paper {

/// How a curve is drawn: told apart without colour.
enum class Pen { Firm, Dashed, Dotted, Marks };

/// A curve in the units of its chart; a value that is no number breaks it.
struct Curve {
    std::string name;
    std::vector<double> x, y; ///< of equal length
    Pen pen = Pen::Firm;
};

/// A place on an axis with its name: a limit, a speed that is claimed.
struct Mark {
    double at = 0;
    std::string name;
};

struct Chart {
    std::string title;
    std::string x_label, y_label; ///< with units
    std::vector<Curve> curves;
    std::vector<Mark> upright{}, level{}; ///< at an x; at a y
    std::optional<double> most_y{};       ///< curves are cut off above
    bool whole_x = false;                 ///< x counts something: no steps between whole numbers
    char decimal = '.';                   ///< sign of the numbers on its axes
};

struct Heading {
    std::string text;
    std::string key; ///< of a link to it; "" for none
};

/// A paragraph; the answer stands out, cautions are framed.
struct Words {
    enum class Role { Plain, Answer, Caution, Small };
    std::string text;
    Role role = Role::Plain;
};

struct Points {
    std::vector<std::string> items;
};

struct Table {
    std::string title; ///< "" for none
    std::vector<std::string> heads;
    std::vector<std::vector<std::string>> rows; ///< as long as the heads
    std::size_t words_columns = 1;              ///< from the left: words; the others hold numbers
    std::vector<int> widths{};                  ///< of the columns, in parts of a hundred; empty: by content
};

using Block = std::variant<Heading, Words, Points, Table, Chart>;

struct Paper {
    std::string title, line; ///< what it is; of what, when, by whom
    std::vector<Block> blocks;
    std::string language = "en";

    void heading(std::string text, std::string key = {}) {
        blocks.emplace_back(Heading{std::move(text), std::move(key)});
    }
    void words(std::string text, Words::Role role = Words::Role::Plain) {
        blocks.emplace_back(Words{std::move(text), role});
    }
    template <class One>
    void add(One block) {
        blocks.emplace_back(std::move(block));
    }
};

/// What a person wrote (a name, a reason, a note) as a part of a paper's text: no translation touches it.
std::string own_words(std::string_view text);

/// What a paper speaks.
struct Language {
    std::string code = "en";                                  ///< as HTML names it
    char decimal = '.';                                       ///< on the axes of charts
    std::function<std::string(std::string_view)> translate{}; ///< a text with its numbers; none: as it is
};
/// The paper in a language, with people's own words as they wrote them. One with own_words() in it is not for
/// readers before.
Paper spoken(Paper paper, const Language& language);

/// Its pictures in order.
std::vector<const Chart*> charts_of(const Paper& paper);

/// Round steps of an axis that hold a range: 1, 2 or 5 times a power of ten, about `wanted` of them.
struct Scale {
    double first = 0, last = 1, step = 1;
    int decimals = 0; ///< that its numbers need
};
/// `from` and `to` finite; equal ones get room on both sides. `least_step`: 1 where only whole numbers count.
Scale round_scale(double from, double to, int wanted, double least_step = 0);

struct ChartRange {
    double x_from = 0, x_to = 1, y_from = 0, y_to = 1;
};
/// The range of a chart's values with its marks; along y nothing above most_y. Empty charts have 0 to 1.
ChartRange range_of(const Chart& chart);

} // namespace bathmos::paper
