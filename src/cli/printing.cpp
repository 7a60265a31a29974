#include "cli/printing.h"

#include "cli/arguments.h"
#include "core/life/part_life.h"
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/paper/paper_html.h"
#include "io/paper/printed_paper.h"
#include "io/project/store.h"
#include "io/text/encoding.h"

#include <cerrno>
#include <cstdlib>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace bathmos::cli {

namespace {

// The paper on its way to the printer; gone when that has read it.
class HandedPaper {
  public:
    explicit HandedPaper(const std::string& text) {
        std::string name = (std::filesystem::temp_directory_path() / "bathmos-paper-XXXXXX").string();
        const int descriptor = mkstemp(name.data());
        if (descriptor < 0)
            throw InputError({name, "", "cannot be written", "free some room there"});
        close(descriptor);
        path_ = name;
        try {
            io::write_file(path_, text);
        } catch (...) { // a full disk: nobody else takes it away
            remove();
            throw;
        }
    }
    ~HandedPaper() { remove(); }
    HandedPaper(const HandedPaper&) = delete;
    HandedPaper& operator=(const HandedPaper&) = delete;
    const std::string& path() const { return path_; }

  private:
    void remove() {
        std::error_code ignored;
        std::filesystem::remove(path_, ignored);
    }
    std::string path_;
};

// Beside this program, where both are installed and built; in the tree of the sources one folder on.
std::filesystem::path printer() {
    std::error_code error;
    const std::filesystem::path here = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
    for (const auto& place : {here / "bathmos-print", here.parent_path() / "print" / "bathmos-print"})
        if (std::filesystem::exists(place, error))
            return place;
    throw InputError({"bathmos-print", "", "is not beside bathmos-cli", "write *.html, or install both"});
}

void write_pdf(const std::filesystem::path& path, const paper::Paper& paper, const std::string& date) {
    const std::string program = printer().string(), out = path.string();
    const HandedPaper handed(io::printed_text(io::printed(paper, date)));
    std::string from = handed.path(), to = out, name = program;
    char* arguments[] = {name.data(), from.data(), to.data(), nullptr};
    pid_t child = 0;
    if (posix_spawn(&child, program.c_str(), nullptr, nullptr, arguments, environ) != 0)
        throw InputError({program, "", "cannot be started", "write *.html"});
    int status = 0;
    while (waitpid(child, &status, 0) < 0 && errno == EINTR) {
    }
    if (!WIFEXITED(status) || WEXITSTATUS(status) != 0)
        throw InputError({io::shown_path(path), "", "was not printed", "write *.html, or another folder"});
}

} // namespace

std::string date_asked(const std::string& asked) {
    const std::string date = asked.empty() ? io::now_text().substr(0, 10) : asked;
    if (date.size() != 10 || !life::day_of(date))
        bad_argument("--date", fmt::format("\"{}\" is no date", asked), "give YYYY-MM-DD");
    return date;
}

void require_paper(const std::filesystem::path& path) {
    if (path.extension() != ".pdf" && path.extension() != ".html")
        throw InputError({io::shown_path(path), "--out", "is neither *.html nor *.pdf", "give one of them"});
}

void write_paper(const std::filesystem::path& path, const paper::Paper& paper, const std::string& date) {
    if (path.extension() == ".pdf")
        return write_pdf(path, paper, date);
    io::write_file(path, io::paper_html(paper));
}

} // namespace bathmos::cli
