// The commands about the dyno and the verdict: pull, diagnose, and keeping pulls in a project.
#pragma once

#include <CLI/CLI.hpp>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace bathmos::cli {

struct DynoOptions {
    std::string pull, against, summary, out; // of pull
    bool correct = false;
    std::string project, build; // of diagnose
    long revision = 0;
    bool json = false, changes = false;
    std::string changed, fuel, notes; // of keep-pull
    std::optional<double> boost_kPa;
    std::string true_train; // of stand-in-pull
    std::vector<std::string> faults;
    double torque_Nm = 235, first_rpm = 4000, last_rpm = 8650, scatter = 0.005;
    unsigned seed = 1;
    std::size_t rows = 235;
    std::vector<std::string> not_logged;
};

void define_dyno(CLI::App& app, DynoOptions& options);
/// False when the command is none of these.
bool run_dyno(const std::string& command, const DynoOptions& options, const std::stop_token& stop);

} // namespace bathmos::cli
