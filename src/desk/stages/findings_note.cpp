#include "desk/stages/findings_note.h"

#include "desk/stages/typed_values.h"

namespace cvane::desk {
namespace {
constexpr double kWideBand = 0.10;  // of CD

QString paragraph(const QString& before, const std::string& text, const QStringList& links) {
    return "<p>" + before + QString::fromStdString(text).toHtmlEscaped() + " " + links.join(" \u00b7 ") + "</p>";
}
QString link(const QString& to, const QString& words) {
    return QString("<a href=\"%1\">%2</a>").arg(to.toHtmlEscaped(), words.toHtmlEscaped());
}
const char* titleOf(campaign::Remark::Place p) {
    const char* titles[] = {"Model", "Tunnel", "Grid", "Schedule"};
    return titles[static_cast<int>(p)];
}
}  // namespace

FindingsNote::FindingsNote(Document& document, std::function<void(const QString&)> change)
    : document_(document), change_(std::move(change)) {
    setAccessibleName(tr("What looks wrong"));
    setWordWrap(true);
    setProperty("role", "note");
    setTextFormat(Qt::RichText);
    setTextInteractionFlags(Qt::TextBrowserInteraction);
    connect(this, &QLabel::linkActivated, this, &FindingsNote::follow);
}

void FindingsNote::follow(const QString& to) {
    const QString what = to.section(':', 0, 0), value = to.section(':', 1);
    Vec3 place;
    if (what == "stage") emit document_.stageWanted(value);
    if (what == "place" && readVector(value, place)) emit document_.placeWanted(place);
    if (what == "set") change_(value);
}

void FindingsNote::showPreflight() {
    QString text;
    for (const auto& r : document_.remarks()) {
        QStringList links;
        for (const auto& m : r.mends)
            links << link("set:" + QString::fromStdString(m.assignment), QString::fromStdString(m.words));
        links << link(QString("stage:") + titleOf(r.place), tr("Go to %1").arg(titleOf(r.place)));
        text += paragraph(r.blocks ? tr("\u2716 Must be mended: ") : tr("\u26a0 Look at: "), r.text, links);
    }
    setText(text.isEmpty() ? tr("\u2714 Nothing looks wrong.") : text);
}

void FindingsNote::showAfterflight() {
    const auto* r = document_.selectedReport();
    if (!r || !r->result) {
        setText(tr("The selected point has no result yet."));
        return;
    }
    QString text;
    for (const auto& f : r->result->findings)
        text +=
            paragraph("\u26a0 ", f.what,
                      f.place ? QStringList{link("place:" + textOf(*f.place), tr("Show the place"))} : QStringList());
    const double CD = std::abs(r->result->coefficients.CD), band = r->result->trust().CD;
    if (band > kWideBand * CD)
        text += paragraph("\u26a0 ",
                          tr("The band is \u00b1%1 % of CD. More cells narrow it.")
                              .arg(100.0 * band / std::max(CD, 1e-12), 0, 'f', 0)
                              .toStdString(),
                          {link("stage:Grid", tr("Go to %1").arg("Grid"))});
    if (!r->result->gridBand())
        text += paragraph("\u26a0 ",
                          tr("Nothing is known of what more cells would change: there is no coarser grid on which this "
                             "point has settled.")
                              .toStdString(),
                          {});
    setText(text.isEmpty() ? tr("\u2714 Nothing looks wrong in it.") : text);
}

}  // namespace cvane::desk
