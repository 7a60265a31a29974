#include "print/paper_pdf.h"

#include "core/problem/input_error.h"
#include "io/file/safe_file.h"
#include "io/text/encoding.h"
#include "print/paper_document.h"

#include <QBuffer>
#include <QHashSeed>
#include <QPdfWriter>
#include <QTextDocument>

namespace bathmos::print {

namespace {

// Qt stamps the hour of printing into the file; two files of one paper would differ by it.
void date_pdf(QByteArray& pdf, const std::string& date) {
    const QByteArray key("/CreationDate (D:");
    const qsizetype at = pdf.lastIndexOf(key);
    const qsizetype end = at < 0 ? -1 : pdf.indexOf(')', at);
    if (end < 0)
        return;
    const qsizetype from = at + key.size();
    QByteArray stamp;
    for (const char c : date)
        if (c >= '0' && c <= '9')
            stamp += c;
    stamp = stamp.left(8).leftJustified(8, '0') + "000000Z";
    pdf.replace(from, end - from, stamp.leftJustified(end - from, ' ', true)); // no place in the file moves
}

// Fonts go into the file in the order of a hash table, which would else be another one each time.
class SameOrder {
  public:
    SameOrder() { QHashSeed::setDeterministicGlobalSeed(); }
    ~SameOrder() { QHashSeed::resetRandomGlobalSeed(); }
    SameOrder(const SameOrder&) = delete;
    SameOrder& operator=(const SameOrder&) = delete;
};

} // namespace

void write_paper_pdf(const std::filesystem::path& path, const io::PrintedPaper& paper) {
    const SameOrder same;
    QBuffer buffer;
    buffer.open(QIODevice::WriteOnly);
    {
        QPdfWriter writer(&buffer);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setResolution(300);
        writer.setTitle(QString::fromStdString(paper.title));
        writer.setCreator(QStringLiteral("Bathmos"));
        document_of(paper)->print(&writer);
    }
    QByteArray pdf = buffer.data();
    if (pdf.isEmpty())
        throw InputError(
            {io::shown_path(path), "", "could not be printed", "try another folder or the HTML"});
    date_pdf(pdf, paper.date);
    io::write_file(path, std::string_view(pdf.constData(), static_cast<std::size_t>(pdf.size())));
}

} // namespace bathmos::print
