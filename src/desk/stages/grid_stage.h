#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QProgressBar>
#include <QPushButton>
#include <QSlider>

#include "campaign/steps/grid_stage.h"
#include "desk/stages/stage.h"
#include "grid/cut.h"

namespace cvane::desk {

/// Cell budget and wall layers; the cells on the surface and on a cut.
class GridStage : public Stage {
    Q_OBJECT
  public:
    GridStage(Document& document, Middle& middle);
    QString title() const override { return "Grid"; }
    Group group() const override { return Group::Tunnel; }
    QString keyFigure() const override;
    State state() const override;
    Need need() const override;
    void show() override;

    /// A cut with one value a polygon, and the places of the worst cells.
    struct Shown {
        bool ofWall = false;  ///< the scale is that of the wall's colours
        grid::Cut cut;
        std::vector<double> values;
        double low = 0, high = 1;
        std::string name;
        std::vector<Vec3> worst;
        std::shared_ptr<const std::vector<double>> asked;  ///< by the first flow at each cell; null: not looked up
        std::weak_ptr<const grid::Grid> of;                ///< the grid that all this is of
    };

  private:
    void addFidelity(QFormLayout* form);
    void addKeptHeights(QFormLayout* form);
    void showForecast(int cells);
    void plan();
    void showFigures();
    QPushButton *make_, *cancel_, *seal_;
    QProgressBar* bar_;
    QLabel *summary_, *counts_;
    Plot* histogram_;
    QComboBox *axis_, *colour_;
    QCheckBox* worst_;
    QSlider *place_, *fidelity_;
    QLabel* forecast_;
    Job<QString> planJob_;
    std::string planned_;  ///< the grid that the plan is of
    class FinerTable* finer_;
    QFutureWatcher<Shown> cutJob_;
    std::shared_ptr<const std::vector<double>> asked_;  ///< of askedGrid_
    std::weak_ptr<const grid::Grid> askedGrid_;
    std::vector<grid::Leak> leaks_;
    bool again_ = false;  ///< something was asked for while the last picture was worked out
};

}  // namespace cvane::desk
