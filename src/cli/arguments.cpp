#include "cli/arguments.h"

#include "core/problem/input_error.h"
#include "core/project/limit_sets.h"
#include "core/units/units.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "io/text/range_text.h"

#include <cmath>
#include <fmt/format.h>
#include <unistd.h>

namespace bathmos::cli {

namespace {

std::vector<double> split_numbers(const std::string& text, const std::string& option, std::size_t count) {
    std::vector<double> out;
    for (const std::string& part : CLI::detail::split(text, ':'))
        out.push_back(plain_number(part, option));
    if (out.size() != count)
        throw CLI::ValidationError(option,
                                   fmt::format("\"{}\" is not {} numbers with colons between", text, count));
    return out;
}

SpeedRange range_of(const std::string& text) {
    try {
        return io::range_of(text);
    } catch (const InputError& error) {
        throw CLI::ValidationError("--rpm", error.problem().what + "; " + error.problem().mend);
    }
}

} // namespace

double plain_number(const std::string& text, const std::string& option) {
    double out = 0;
    if (!CLI::detail::lexical_cast(text, out) || !std::isfinite(out))
        throw CLI::ValidationError(option, fmt::format("\"{}\" is not a number; give a plain number", text));
    return out;
}

CLI::Validator between(double low, double high, const std::string& unit) {
    return CLI::Validator(
        [=](std::string& text) {
            double value = 0;
            return CLI::detail::lexical_cast(text, value) && value >= low && value <= high
                       ? std::string()
                       : fmt::format("{} is out of range; give {:g} to {:g}{}{}", text, low, high,
                                     unit.empty() ? "" : " ", unit);
        },
        fmt::format("{:g} to {:g}", low, high));
}

CLI::Option* add_height(CLI::App* command, const std::string& name, std::vector<double>& into_mm,
                        const std::string& help) {
    const std::map<std::string, double> units = {{"mm", 1}, {"in", kInch_m * 1e3}, {"thou", kInch_m}};
    const CLI::Validator with_unit(
        [](std::string& text) {
            return !text.empty() && std::isalpha(static_cast<unsigned char>(text.back()))
                       ? std::string()
                       : fmt::format("\"{}\" has no unit; write 1.27mm, 0.050in or 50thou", text);
        },
        "NUMBER UNIT");
    const CLI::Validator above(
        [](std::string& text) {
            double value = 0;
            return CLI::detail::lexical_cast(text, value) && value > 0 && value < 1e3
                       ? std::string()
                       : fmt::format("\"{}\" is not above 0; give a height such as 1.27mm", text);
        },
        "ABOVE 0");
    return command->add_option(name, into_mm, help)
        ->transform(
            CLI::AsNumberWithUnit(units, CLI::AsNumberWithUnit::UNIT_REQUIRED, "1.27mm, 0.050in or 50thou"))
        ->transform(with_unit) // looks first, with plainer words
        ->check(above);
}

CLI::Option* add_range(CLI::App* command, SpeedRange& into) {
    return command->add_option_function<std::string>(
        "--rpm", [&into](const std::string& text) { into = range_of(text); }, "FIRST:LAST:STEP in rev/min");
}

CLI::Option* add_speed(CLI::App* command, double& into) {
    return command->add_option("--rpm", into, "Crank speed, rev/min")
        ->check(between(io::kLeastSpeed_rpm, io::kMostSpeed_rpm, "rev/min"));
}

CLI::Option* add_numbers(CLI::App* command, const std::string& name, std::vector<double>& into,
                         std::size_t count, double least, double most, const std::string& help) {
    return command->add_option_function<std::string>(
        name,
        [&into, name, count, least, most](const std::string& text) {
            into = split_numbers(text, name, count);
            for (const double number : into)
                if (!(number >= least && number <= most))
                    throw CLI::ValidationError(
                        name, fmt::format("{:g} is out of range; give {:g} to {:g}", number, least, most));
        },
        help);
}

CLI::Option* add_limits(CLI::App* command, LimitsInForce& into) {
    std::string names;
    for (const NamedLimits& named : named_limits())
        names += (names.empty() ? "" : ", ") + fmt::format("\"{}\"", named.set.name);
    return command->add_option_function<std::string>(
        "--limits",
        [&into, names](const std::string& name) {
            const NamedLimits* named = find_named_limits(name);
            if (!named)
                throw CLI::ValidationError("--limits",
                                           fmt::format("\"{}\" is no set; give one of {}", name, names));
            into = in_force(named->set);
        },
        "Limit set: " + names);
}

ProgressSink terminal_progress(const std::string& what) {
    if (!isatty(STDERR_FILENO))
        return {};
    return [what, last = -1](double share) mutable {
        const int percent = static_cast<int>(100 * share);
        if (percent != last)
            fmt::print(stderr, "\r{} {:3d} %{}", what, percent, percent == 100 ? "\n" : "");
        last = percent;
    };
}

void say(const std::string& text) {
    fmt::print("{}", io::printable(io::to_utf8(text, io::Encoding::Utf8)));
}

void note(const std::string& text) {
    fmt::print(stderr, "note: {}\n", io::printable(io::to_utf8(text, io::Encoding::Utf8)));
}

io::Store open_project(const std::string& path) {
    io::Store store = io::Store::open(path);
    for (const std::string& trouble : store.notes())
        note(trouble);
    return store;
}

void require_apart(const std::vector<NamedFile>& inputs, const std::vector<NamedFile>& outputs) {
    const auto refuse = [](const NamedFile& file, const std::string& what) {
        throw InputError({file.path, file.option, what, "give another name"});
    };
    std::error_code none;
    for (std::size_t i = 0; i < outputs.size(); ++i) {
        const NamedFile& out = outputs[i];
        if (out.path.empty() ||
            (std::filesystem::exists(out.path, none) && !std::filesystem::is_regular_file(out.path, none)))
            continue; // a pipe or device replaces nothing
        for (const NamedFile& in : inputs)
            if (!in.path.empty() && io::same_file(in.path, out.path))
                refuse(out, "would replace the input " + in.option);
        for (std::size_t k = 0; k < i; ++k)
            if (!outputs[k].path.empty() && io::same_file(outputs[k].path, out.path))
                refuse(out, "is the file of " + outputs[k].option + " too");
    }
}

void write_if(const std::string& path, const std::string& text) {
    if (!path.empty())
        io::write_file(path, text);
}

void bad_argument(const std::string& location, const std::string& what, const std::string& mend) {
    throw InputError({"", location, what, mend});
}

} // namespace bathmos::cli
