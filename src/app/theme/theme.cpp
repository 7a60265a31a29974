#include "app/theme/theme.h"

#include "print/fonts.h"

#include <QApplication>
#include <QPalette>
#include <QStyleFactory>
#include <array>
#include <cmath>

static void init_resources() {
    Q_INIT_RESOURCE(pages);
}

namespace bathmos::app {

namespace {

struct Pair {
    const char* light;
    const char* dark;
};
constexpr std::array<Pair, static_cast<std::size_t>(Role::Count)> kColors = {{
    {"#F6F4EF", "#14191D"}, // Paper
    {"#FFFFFF", "#1B2227"}, // Panel
    {"#22303A", "#E6E3DC"}, // Ink
    {"#5A666F", "#9AA5AD"}, // Faint
    {"#D9D4C9", "#333D44"}, // Rule
    {"#5E6972", "#9AA5AD"}, // Kinematic
    {"#0B6E78", "#4FB7C0"}, // Predicted
    {"#B5532A", "#E08A5C"}, // Measured
    {"#5B4B8A", "#A99BD6"}, // Third
    {"#8A5E00", "#D9A441"}, // LimitMark
    {"#9E2B25", "#E0706A"}, // StopMark
}};

// At least 20 apart (CIE 1976) for readers without one of the three primary colours, where the usual ones
// come as near as 4; each still has the contrast of text (theme's tests).
QColor apart_color_of(Role role, Look look) {
    const bool light = look == Look::Light;
    switch (role) {
    case Role::Predicted:
        return light ? 0x2158DE : 0x65B7FA;
    case Role::Measured:
        return light ? 0xB74F00 : 0xF49244;
    case Role::Third:
        return light ? 0x791D9F : 0xBF6CBF;
    case Role::LimitMark:
        return light ? 0x756539 : 0xF8EB73;
    case Role::StopMark:
        return light ? 0x68091A : 0xFF6A6A;
    default:
        return color_of(role, look);
    }
}

double linear(double channel) {
    return channel <= 0.03928 ? channel / 12.92 : std::pow((channel + 0.055) / 1.055, 2.4);
}

double luminance(const QColor& c) {
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}

} // namespace

QColor color_of(Role role, Look look, Colours colours) {
    if (colours == Colours::Apart)
        return apart_color_of(role, look);
    const Pair& pair = kColors[static_cast<std::size_t>(role)];
    return QColor(QLatin1String(look == Look::Light ? pair.light : pair.dark));
}

Look look_of(const QPalette& desktop) {
    return desktop.color(QPalette::Window).lightness() < desktop.color(QPalette::WindowText).lightness()
               ? Look::Dark
               : Look::Light;
}

double contrast(const QColor& a, const QColor& b) {
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

QColor Theme::faded(Role role) const {
    const QColor front = color(role), back = color(Role::Panel);
    const auto mix = [](int f, int b) { return static_cast<int>(std::lround(0.45 * f + 0.55 * b)); };
    return QColor(mix(front.red(), back.red()), mix(front.green(), back.green()),
                  mix(front.blue(), back.blue()));
}

void Theme::set_look(Look look) {
    look_ = look;
    apply();
    emit changed();
}

void Theme::set_colours(Colours colours) {
    colours_ = colours;
    apply();
    emit changed();
}

void Theme::apply() const {
    QPalette p;
    const auto set = [&](QPalette::ColorRole role, Role meaning) { p.setColor(role, color(meaning)); };
    set(QPalette::Window, Role::Paper);
    set(QPalette::WindowText, Role::Ink);
    set(QPalette::Base, Role::Panel);
    set(QPalette::AlternateBase, Role::Paper);
    set(QPalette::Text, Role::Ink);
    set(QPalette::PlaceholderText, Role::Faint);
    set(QPalette::Button, Role::Paper);
    set(QPalette::ButtonText, Role::Ink);
    set(QPalette::BrightText, Role::StopMark);
    set(QPalette::ToolTipBase, Role::Panel);
    set(QPalette::ToolTipText, Role::Ink);
    set(QPalette::Link, Role::Predicted);
    set(QPalette::Highlight, Role::Predicted);
    set(QPalette::HighlightedText, Role::Panel);
    for (const QPalette::ColorRole role : {QPalette::Mid, QPalette::Midlight, QPalette::Light})
        set(role, Role::Rule);
    for (const QPalette::ColorRole role : {QPalette::Dark, QPalette::Shadow})
        set(role, Role::Faint);
    for (const QPalette::ColorRole role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, color(Role::Faint));
    QApplication::setPalette(p);
    QApplication::setFont(text_font());
}

QFont Theme::text_font(int pixels, bool strong) {
    QFont font(QStringLiteral("Inter"));
    font.setPixelSize(pixels);
    font.setWeight(strong ? QFont::DemiBold : QFont::Normal);
    font.setHintingPreference(QFont::PreferNoHinting);
    font.setStyleStrategy(QFont::PreferAntialias);
    return font;
}

QFont Theme::number_font(int pixels) {
    QFont font(QStringLiteral("JetBrains Mono"));
    font.setPixelSize(pixels);
    font.setHintingPreference(QFont::PreferNoHinting);
    font.setStyleStrategy(QFont::PreferAntialias);
    return font;
}

bool Theme::load_fonts() {
    init_resources();
    const bool all = print::load_fonts();
    QApplication::setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    return all;
}

} // namespace bathmos::app
