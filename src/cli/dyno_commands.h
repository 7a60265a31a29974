// The commands about the dyno and the verdict: pull, diagnose, and keeping pulls in a project.
#pragma once

#include <CLI/CLI.hpp>
#include <optional>
#include <stop_token>
#include <string>

namespace bathmos::cli {

struct DynoOptions {
    std::string pull, against, summary, out; // of pull
    bool correct = false;
    std::string project, build; // of diagnose
    long revision = 0;
    bool json = false, changes = false;
    std::string changed, fuel, notes; // of keep-pull
    std::optional<double> boost_kPa;
};

void define_dyno(CLI::App& app, DynoOptions& options);
/// False when the command is none of these.
bool run_dyno(const std::string& command, const DynoOptions& options, const std::stop_token& stop);

} // namespace bathmos::cli
