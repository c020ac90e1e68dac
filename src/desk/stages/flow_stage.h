#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QListWidget>
#include <QPushButton>
#include <QSlider>
#include <QSpinBox>

#include "desk/model/flow_loader.h"
#include "desk/stages/stage.h"

namespace cvane::desk {

/// What the air does around the model: walls, slices, surfaces and lines, several at a time. Each is a setting of the
/// campaign, so that it can be undone and is drawn for every point.
class FlowStage : public Stage {
    Q_OBJECT
  public:
    FlowStage(Document& document, Middle& middle);
    QString title() const override { return "Flow"; }
    Group group() const override { return Group::Reading; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;

  private:
    using Item = campaign::FlowItem;
    void makeList();
    void makeForm();
    QDoubleSpinBox* numberOf(QFormLayout* form, const QString& label, const char* name, const QString& suffix,
                             std::function<double&(Item&)> field);
    void rake(QFormLayout* form, const QString& label, const char* name, Vec3 Item::*end);
    void add(Item::Kind kind);
    /// Changes the chosen item, as a step that can be undone.
    void edit(const QString& intent, const std::function<void(Item&)>& how);
    void changeItems(const QString& intent, const std::vector<Item>& next);
    void fill();  ///< list and form from the items
    void fillForm();
    double reachAlong(const Vec3& normal) const;  ///< of the model [m], which the slider's hundred is
    void slideTo(int percent);
    int axisOf(const Item& item) const;  ///< -1: oblique
    const Item* chosen() const;
    void draw();

    FlowLoader loader_;
    std::vector<Item> items_;
    std::vector<std::function<void(const Item&)>> fillers_;
    std::vector<std::pair<QWidget*, std::vector<Item::Kind>>> rows_;  ///< of the form, and the kinds that have them
    QFormLayout* form_;
    QListWidget* list_;
    QComboBox *quantity_, *colour_, *axis_;
    QSlider* place_;
    QCheckBox* automatic_;
    QDoubleSpinBox *low_, *high_;
    QLabel* words_;
    bool filling_ = false;
};

}  // namespace cvane::desk
