// bathmos-print: a paper that bathmos-cli has made, as PDF. Needs no display. Exit 0 done, 2 bad input, 1
// anything else.
#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "print/fonts.h"
#include "print/paper_pdf.h"

#include <QGuiApplication>
#include <cstdio>

namespace {

// What Qt warns of (a session without a folder of its own, say) is nothing that printing needs.
void only_what_fails(QtMsgType type, const QMessageLogContext&, const QString& text) {
    if (type == QtCriticalMsg || type == QtFatalMsg)
        std::fprintf(stderr, "bathmos-print: %s\n", qPrintable(text));
}

} // namespace

int main(int argc, char** argv) {
    using namespace bathmos;
    if (argc != 3) {
        std::fprintf(stderr, "bathmos-print: give PAPER.json OUT.pdf; bathmos-cli report makes both\n");
        return 2;
    }
    qputenv("QT_QPA_PLATFORM", "offscreen");
    qInstallMessageHandler(only_what_fails);
    QGuiApplication application(argc, argv);
    try {
        print::load_fonts();
        print::write_paper_pdf(argv[2], io::parse_printed(io::read_file(argv[1]), argv[1]));
        return 0;
    } catch (const InputError& error) {
        std::fprintf(stderr, "bathmos-print: %s\n", io::printable(error.what()).c_str());
        return 2;
    } catch (const std::exception& error) {
        std::fprintf(stderr, "bathmos-print: %s\n", error.what());
        return 1;
    }
}
