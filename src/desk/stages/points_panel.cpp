#include "desk/stages/points_panel.h"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QLabel>
#include <QLineEdit>
#include <algorithm>

#include "base/errors.h"
#include "base/number_list.h"
#include "campaign/plan/written.h"
#include "campaign/settings/fields.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/hold.h"

namespace cvane::desk {
namespace {
QString text(const std::string& s) {
    return QString::fromStdString(s);
}
}  // namespace

PointsPanel::PointsPanel(Document& d) : EntryList({"furtherPoints", "addPoints", "removePoints"}, 110), document_(d) {
    list().setAccessibleName(tr("Further points"));
    addMenu().addAction(tr("Group of points"), this, [this] { addGroup(); });
    addMenu().addAction(tr("Lift to be held"), this, [this] { addHeld(); });
    addMenu().addAction(tr("Other values of a setting\u2026"), this, [this] { varySetting(); });
    addMenu().addAction(tr("Points from the clipboard"), this, [this] { paste(); });
    connect(this, &EntryList::removed, this, &PointsPanel::remove);
    connect(&list(), &QListWidget::currentRowChanged, this, &PointsPanel::showChosen);
    connect(&list(), &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const auto e = entryAt(static_cast<std::size_t>(list().row(item)));
        const bool on = item->checkState() == Qt::Checked;
        if (on == isOn(e) || e.kind == Kind::Single) return;
        change(tr("switch points on or off"), [e, on](campaign::Settings& s) {
            (e.kind == Kind::Group ? s.schedule.groups[e.index].on : s.schedule.held[e.index].on) = on;
        });
    });
    document_.when(Change::Settings | Change::Campaign, this, [this] { fill(); });
}

std::size_t PointsPanel::entries() const {
    const auto& s = document_.base().settings.schedule;
    return s.groups.size() + s.held.size() + s.single.size();
}

PointsPanel::Entry PointsPanel::entryAt(std::size_t i) const {
    const auto& s = document_.base().settings.schedule;
    if (i < s.groups.size()) return {Kind::Group, i};
    i -= s.groups.size();
    if (i < s.held.size()) return {Kind::Held, i};
    return {Kind::Single, i - s.held.size()};
}

std::optional<PointsPanel::Entry> PointsPanel::chosen() const {
    const int row = list().currentRow();
    if (!document_.isOpen() || row < 0 || static_cast<std::size_t>(row) >= entries()) return std::nullopt;
    return entryAt(static_cast<std::size_t>(row));
}

bool PointsPanel::isOn(const Entry& e) const {
    const auto& s = document_.base().settings.schedule;
    return e.kind == Kind::Group ? s.groups[e.index].on : e.kind == Kind::Held ? s.held[e.index].on : true;
}

QString PointsPanel::wordsOf(const Entry& e) const {
    const auto& s = document_.base().settings.schedule;
    switch (e.kind) {
        case Kind::Group: {
            const auto& g = s.groups[e.index];
            return tr("%1: %2 points")
                .arg(text(g.name))
                .arg(g.speeds.size() * g.alphas_deg.size() * g.betas_deg.size());
        }
        case Kind::Held:
            return tr("hold %1").arg(text(campaign::wordsOf(s.held[e.index])));
        case Kind::Single:
            break;
    }
    const auto& p = s.single[e.index];
    return text(campaign::Point{p.condition, p.configuration, p.setUp}.name());
}

void PointsPanel::fill() {
    if (!document_.isOpen()) return;
    refill([this](QListWidget& to) {
        for (std::size_t i = 0; i < entries(); ++i) {
            const auto e = entryAt(i);
            auto* item = new QListWidgetItem(wordsOf(e), &to);
            if (e.kind != Kind::Single) item->setCheckState(isOn(e) ? Qt::Checked : Qt::Unchecked);
        }
    });
    showChosen();
}

void PointsPanel::change(const QString& intent, const std::function<void(campaign::Settings&)>& how) {
    if (!document_.isOpen()) return;
    auto next = document_.base().settings;
    try {
        how(next);
        campaign::pointsOf(next);
    } catch (const base::InputError& e) {
        emit document_.problem(e.what());
        shownRow_ = -1;  // what was typed gives way to what holds
        fill();
        return;
    }
    document_.changeBase(intent, next, tr("Schedule"));
}

void PointsPanel::line(const QString& label, const char* name, const QString& value,
                       const std::function<void(campaign::Settings&, const std::string&)>& take) {
    auto* edit = new QLineEdit(value);
    edit->setObjectName(name);
    form()->addRow(label, edit);
    connect(edit, &QLineEdit::editingFinished, this, [this, edit, value, take] {
        if (edit->text() == value) return;
        change(tr("change further points"),
               [&](campaign::Settings& s) { take(s, edit->text().trimmed().toStdString()); });
    });
}

void PointsPanel::pick(const QString& label, const char* name, const QStringList& words, int now,
                       const std::function<void(campaign::Settings&, int)>& take) {
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(8);
    box->addItems(words);
    box->setCurrentIndex(now);
    form()->addRow(label, box);
    connect(box, &QComboBox::activated, this,
            [this, take](int i) { change(tr("change further points"), [&](campaign::Settings& s) { take(s, i); }); });
}

void PointsPanel::pickVariant(const QString& label, const char* name, const std::vector<campaign::Variant>& variants,
                              const QString& none, bool withBase, const std::string& now,
                              const std::function<void(campaign::Settings&, const std::string&)>& take) {
    std::vector<std::string> names{""};
    QStringList words{none};
    if (withBase) {
        names.emplace_back("base");
        words << tr("base");
    }
    for (const auto& v : variants) {
        names.push_back(v.name);
        words << text(v.name);
    }
    const auto at = std::find(names.begin(), names.end(), now);
    pick(label, name, words, at == names.end() ? 0 : static_cast<int>(at - names.begin()),
         [names, take](campaign::Settings& s, int i) { take(s, names[static_cast<std::size_t>(i)]); });
}

void PointsPanel::showChosen() {
    const auto e = chosen();
    const auto& s = document_.isOpen() ? document_.base().settings.schedule : shown_;
    if (form() && list().currentRow() == shownRow_ && s == shown_) return;
    shown_ = s;
    shownRow_ = list().currentRow();
    newForm();
    if (!e) return;
    if (e->kind == Kind::Group) showGroup(e->index);
    if (e->kind == Kind::Held) showHeld(e->index);
    if (e->kind == Kind::Single) showSingle(e->index);
}

void PointsPanel::showGroup(std::size_t i) {
    const auto& settings = document_.base().settings;
    const auto& g = settings.schedule.groups[i];
    line(tr("Name"), "groupName", text(g.name),
         [i](campaign::Settings& s, const std::string& t) { s.schedule.groups[i].name = t; });
    const auto numbers = [&](const QString& label, const char* name, std::vector<double> campaign::PointGroup::*list) {
        line(label, name, text(campaign::listText(g.*list)),
             [i, list, label](campaign::Settings& s, const std::string& t) {
                 s.schedule.groups[i].*list = base::numbersIn(t, label.toStdString());
             });
    };
    numbers(tr("Speeds [m/s]"), "groupSpeeds", &campaign::PointGroup::speeds);
    numbers(tr("Alpha [deg]"), "groupAlphas", &campaign::PointGroup::alphas_deg);
    numbers(tr("Beta [deg]"), "groupBetas", &campaign::PointGroup::betas_deg);
    if (!settings.configurations.empty())
        pickVariant(tr("Configuration"), "groupConfiguration", settings.configurations, tr("every one"), true,
                    g.configuration,
                    [i](campaign::Settings& s, const std::string& t) { s.schedule.groups[i].configuration = t; });
    if (!settings.setUps.empty())
        pickVariant(tr("Set-up"), "groupSetUp", settings.setUps, tr("every one"), true, g.setUp,
                    [i](campaign::Settings& s, const std::string& t) { s.schedule.groups[i].setUp = t; });
}

void PointsPanel::showHeld(std::size_t i) {
    const auto& settings = document_.base().settings;
    const auto& h = settings.schedule.held[i];
    using campaign::HeldLift;
    const auto number = [](double v) { return QString::number(v, 'g', 8); };
    pick(tr("Holds"), "heldOf", {tr("CL"), tr("lift in newtons")}, static_cast<int>(h.of),
         [i](campaign::Settings& s, int of) {
             auto& held = s.schedule.held[i];
             held.of = static_cast<HeldLift::Of>(of);
             if (held.of == HeldLift::Of::Coefficient) held.follows = HeldLift::Follows::Alpha;
         });
    const auto value = [&](const QString& label, const char* name, double now, auto at) {
        line(label, name, number(now), [i, at, label](campaign::Settings& s, const std::string& t) {
            at(s.schedule.held[i]) = base::numberIn(t, label.toStdString());
        });
    };
    value(tr("Value"), "heldValue", h.value, [](HeldLift& l) -> double& { return l.value; });
    if (h.of == HeldLift::Of::Force)
        pick(tr("Follows"), "heldFollows", {tr("alpha"), tr("speed")}, static_cast<int>(h.follows),
             [i](campaign::Settings& s, int f) { s.schedule.held[i].follows = static_cast<HeldLift::Follows>(f); });
    const bool byAlpha = h.follows == HeldLift::Follows::Alpha;
    value(byAlpha ? tr("Speed [m/s]") : tr("First speed [m/s]"), "heldSpeed", h.from.speed,
          [](HeldLift& l) -> double& { return l.from.speed; });
    value(byAlpha ? tr("First alpha [deg]") : tr("Alpha [deg]"), "heldAlpha", h.from.alpha_deg,
          [](HeldLift& l) -> double& { return l.from.alpha_deg; });
    value(tr("Beta [deg]"), "heldBeta", h.from.beta_deg, [](HeldLift& l) -> double& { return l.from.beta_deg; });
    if (!settings.configurations.empty())
        pickVariant(tr("Configuration"), "heldConfiguration", settings.configurations, tr("base"), false,
                    h.configuration,
                    [i](campaign::Settings& s, const std::string& t) { s.schedule.held[i].configuration = t; });
    if (!settings.setUps.empty())
        pickVariant(tr("Set-up"), "heldSetUp", settings.setUps, tr("base"), false, h.setUp,
                    [i](campaign::Settings& s, const std::string& t) { s.schedule.held[i].setUp = t; });
}

void PointsPanel::showSingle(std::size_t i) {
    const auto& p = document_.base().settings.schedule.single[i];
    const auto value = [&](const QString& label, const char* name, double campaign::Condition::*at) {
        line(label, name, QString::number(p.condition.*at, 'g', 8),
             [i, at, label](campaign::Settings& s, const std::string& t) {
                 s.schedule.single[i].condition.*at = base::numberIn(t, label.toStdString());
             });
    };
    value(tr("Speed [m/s]"), "singleSpeed", &campaign::Condition::speed);
    value(tr("Alpha [deg]"), "singleAlpha", &campaign::Condition::alpha_deg);
    value(tr("Beta [deg]"), "singleBeta", &campaign::Condition::beta_deg);
}

void PointsPanel::addGroup() {
    change(tr("add a group of points"), [](campaign::Settings& s) {
        auto& groups = s.schedule.groups;
        int n = 1;
        const auto taken = [&](const std::string& name) {
            return std::any_of(groups.begin(), groups.end(), [&](const auto& g) { return g.name == name; });
        };
        while (taken("group " + std::to_string(n))) ++n;
        groups.push_back({"group " + std::to_string(n),
                          true,
                          s.schedule.speeds,
                          s.schedule.alphas_deg,
                          s.schedule.betas_deg,
                          {},
                          {}});
    });
    list().setCurrentRow(static_cast<int>(document_.isOpen() ? document_.base().settings.schedule.groups.size() : 0) -
                         1);
}

void PointsPanel::addHeld() {
    change(tr("hold a lift"), [](campaign::Settings& s) {
        campaign::HeldLift h;
        h.from = {s.schedule.speeds.front(), s.schedule.alphas_deg.front(), s.schedule.betas_deg.front()};
        s.schedule.held.push_back(h);
    });
    if (!document_.isOpen()) return;
    const auto& s = document_.base().settings.schedule;
    list().setCurrentRow(static_cast<int>(s.groups.size() + s.held.size()) - 1);
}

void PointsPanel::remove() {
    const auto e = chosen();
    if (!e) return;
    change(tr("take out points"), [e](campaign::Settings& s) {
        const auto at = [&](auto& list) { list.erase(list.begin() + static_cast<std::ptrdiff_t>(e->index)); };
        if (e->kind == Kind::Group) at(s.schedule.groups);
        if (e->kind == Kind::Held) at(s.schedule.held);
        if (e->kind == Kind::Single) at(s.schedule.single);
    });
}

void PointsPanel::paste() {
    change(tr("add points from the clipboard"), [](campaign::Settings& s) {
        const auto table = QApplication::clipboard()->text().toStdString();
        if (campaign::addPoints(s, campaign::pointsInTable(table, "clipboard")) == 0)
            throw base::InputError("all of its points are in the schedule.", "clipboard", "");
    });
}

void PointsPanel::varySetting() {
    if (!document_.isOpen()) return;
    QDialog dialog(this);
    dialog.setWindowTitle(tr("Other values of a setting"));
    auto* form = new QFormLayout(&dialog);
    auto* setting = new QComboBox;
    setting->setObjectName("variedSetting");
    setting->setEditable(true);
    for (const auto& group : campaign::settingGroups())
        if (campaign::isModelSide(group.name) || campaign::isTunnelSide(group.name))
            for (const auto& row : group.rows) {
                const auto path = text(group.name + "." + row.name);
                if (row.kind != campaign::Kind::Vector)
                    setting->addItem(path);
                else
                    for (const char* axis : {".x", ".y", ".z"}) setting->addItem(path + axis);
            }
    setting->setCurrentText("model.rotation_deg.y");
    auto* values = new QLineEdit;
    values->setObjectName("variedValues");
    values->setPlaceholderText(tr("2; 4; 6"));
    auto* says =
        new QLabel(tr("Each value makes a configuration (model, reference, devices) or a set-up (tunnel, grid, "
                      "flow, air) whose points are run beside the base\u2019s."));
    says->setWordWrap(true);
    form->addRow(tr("Setting"), setting);
    form->addRow(tr("Values, with semicolons"), values);
    form->addRow(says);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    if (dialog.exec() != QDialog::Accepted) return;
    change(tr("vary a setting"), [&](campaign::Settings& s) {
        std::vector<std::string> all;
        for (const auto& v : values->text().split(';', Qt::SkipEmptyParts)) all.push_back(v.trimmed().toStdString());
        campaign::vary(s, setting->currentText().trimmed().toStdString(), all);
    });
}

}  // namespace cvane::desk
