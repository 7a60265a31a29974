// An input that cannot be used, told so that a person can mend it.
#pragma once

#include <stdexcept>
#include <string>

namespace bathmos {

/// What is wrong with an input, in the four parts that every message of Bathmos has.
struct InputProblem {
    std::string source;   ///< the file or record, "" when it is the value in hand
    std::string location; ///< key, line and column, or field
    std::string what;     ///< what is wrong, with the value found
    std::string mend;     ///< what would be right

    /// One line: "source: place: what; mend".
    std::string sentence() const {
        std::string text;
        for (const std::string* part : {&source, &location})
            if (!part->empty())
                text += *part + ": ";
        text += what;
        if (!mend.empty())
            text += "; " + mend;
        return text;
    }
};

/// Thrown when an input cannot be used. Nothing has been changed when it is thrown.
class InputError : public std::runtime_error {
  public:
    explicit InputError(InputProblem problem)
        : std::runtime_error(problem.sentence()), problem_(std::move(problem)) {}

    const InputProblem& problem() const { return problem_; }

    /// The same problem, said of a named source (a reader knows the file, the core does not).
    InputError in(std::string source) const {
        InputProblem named = problem_;
        named.source = std::move(source);
        return InputError(named);
    }

  private:
    InputProblem problem_;
};

} // namespace bathmos
