#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QTableWidget>
#include <map>
#include <memory>

#include "desk/model/field_loader.h"
#include "desk/stages/outside_picker.h"
#include "desk/stages/stage.h"
#include "readout/loading.h"
#include "readout/quantities.h"
#include "readout/what_differs.h"

namespace cvane::desk {

/// Two to six points that were picked on the board beside one of reference: what differs, by how much, whether it is
/// more than the doubt, and where along the model. Quantities of all points over each other.
class CompareStage : public Stage {
    Q_OBJECT
  public:
    CompareStage(Document& document, Middle& middle);
    QString title() const override { return "Compare"; }
    Group group() const override { return Group::Reading; }
    bool draws() const override { return false; }
    QString keyFigure() const override;
    State state() const override;
    void show() override;
    bool takeTable(const QString& file) override;

  private:
    struct Shown {
        campaign::Point point;
        const campaign::PointReport* report;
        QString name;
    };
    std::vector<Shown> shown() const;  ///< the reference first
    std::optional<readout::Axles> axlesOf(const campaign::Point& point) const;
    void fillTable(const std::vector<Shown>& points);
    void fillSettings(const std::vector<Shown>& points);
    void tellAnswer(const std::vector<Shown>& points);
    /// Null while its walls are being read, or where it has none.
    const readout::Loading* loadingOf(const Shown& point, const Vec3& axis);
    void plotLoadings(const std::vector<Shown>& points);
    void plotQuantities();
    void addFit(const QString& name, const std::vector<double>& x, const std::vector<double>& y,
                const std::vector<double>& band, const QColor& ink, QStringList& said);
    void fillColumns();  ///< of the table from elsewhere, those of the axes chosen
    static QString headOf(const readout::ResultQuantity& quantity);
    void arrangeLoaders(const std::vector<Shown>& points);

    QComboBox *reference_, *plot_, *x_, *y_, *outsideX_, *outsideY_;
    OutsidePicker* outside_;
    QCheckBox *all_, *fit_;
    QTableWidget* table_;
    QLabel *words_, *settings_;
    std::optional<campaign::Point> pinned_;
    std::map<std::string, std::unique_ptr<FieldLoader>> loaders_;
    std::map<std::string, readout::Loading> loadings_;  ///< by point, axis and generation
};

}  // namespace cvane::desk
