// Shared by all tests: comparisons that print both values, and the parts most tests start from.
#pragma once

#include "core/problem/input_error.h"
#include "core/train/train_starter.h"
#include "core/units/units.h"

#include <QFile>
#include <QString>
#include <QTest>
#include <cmath>
#include <filesystem>
#include <string>

namespace bathmos::test {

inline QString source_path(const QString& relative) {
    return QStringLiteral(BATHMOS_SOURCE_DIR "/") + relative;
}
inline std::string source_file(const std::string& relative) {
    return std::string(BATHMOS_SOURCE_DIR "/") + relative;
}

/// Writes a test's own file; stops the test program if that is not possible.
inline std::filesystem::path write_test_file(const QString& path, const QByteArray& content) {
    QFile out(path);
    if (!out.open(QIODevice::WriteOnly) || out.write(content) != content.size())
        qFatal("cannot write a test file");
    return path.toStdString();
}

/// How many of so many drawn cases are run: all of them where BATHMOS_WHOLE is set (./dev proof), else a
/// quarter, the first ones. Bars are shares, and the same.
inline int drawn(int whole) {
    return qEnvironmentVariableIsSet("BATHMOS_WHOLE") ? whole : (whole + 3) / 4;
}

/// Within an absolute tolerance; says by how much not.
#define NEAR(actual, expected, tolerance)                                                                    \
    do {                                                                                                     \
        const double a_ = (actual), e_ = (expected), t_ = (tolerance);                                       \
        QVERIFY2(std::abs(a_ - e_) <= t_, qPrintable(QStringLiteral("%1 is %2, expected %3 within %4")       \
                                                         .arg(QStringLiteral(#actual))                       \
                                                         .arg(a_, 0, 'g', 9)                                 \
                                                         .arg(e_, 0, 'g', 9)                                 \
                                                         .arg(t_, 0, 'g', 3)));                              \
    } while (false)

/// Runs `statement` and gives the problem it throws; fails the test if it throws none.
template <class F>
InputProblem problem_of(F statement) {
    try {
        statement();
    } catch (const InputError& error) {
        return error.problem();
    }
    return {"", "", "nothing was thrown", ""};
}

inline bool contains(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

#define CONTAINS(text, part)                                                                                 \
    QVERIFY2(bathmos::test::contains(text, part),                                                            \
             qPrintable(QStringLiteral("\"%1\" does not say \"%2\"")                                         \
                            .arg(QString::fromStdString(text), QString::fromStdString(part))))

} // namespace bathmos::test
