#pragma once
#include <QAbstractTableModel>

#include "desk/model/document.h"

namespace cvane::desk {

/// By which property points are laid out on the board, and grouped in plots.
enum class PointAxis { Configuration, SetUp, Method, Speed, Alpha, Beta };
inline constexpr int kPointAxes = 6;

/// All points of the campaign, one a row: board, tables and plots read them here. A point is known by what it is, not
/// by its row.
class PointModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    enum Column { Configuration, SetUp, Speed, Alpha, Beta, State, CL, CD, Cm, kColumns };
    explicit PointModel(Document& document);

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

    const campaign::PointReport& report(int row) const { return document_.reports()[static_cast<std::size_t>(row)]; }
    int rowOf(const campaign::Point& point) const;  ///< -1: no such point
    Document& document() const { return document_; }

  private:
    Document& document_;
    std::vector<campaign::Point> shown_;
};

/// The value of a point on an axis in words, with the units that are shown: "12 m/s", "alpha 2 deg", "no wheels".
QString axisWords(const campaign::Point& point, PointAxis axis, const campaign::ShownUnits& units);
QString axisName(PointAxis axis);
/// A point in a few words, for captions and legends: "16 m/s, alpha 4\u00b0, no wheels".
QString pointWords(const campaign::Point& point);

/// Of two points what tells each from the other: the builds' names where they differ, else angles, else speeds.
std::pair<QString, QString> differingWords(const campaign::Point& a, const campaign::Point& b);

/// The points as a matrix: one axis or two across, one or two down. A cell is one point, or empty.
class BoardModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    explicit BoardModel(PointModel& points);

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

    /// Which axes go down; the others that have more than one value go across.
    void setDown(const std::vector<PointAxis>& axes);
    const std::vector<PointAxis>& down() const { return down_; }
    const campaign::PointReport* report(const QModelIndex& index) const;  ///< null: an empty cell
    QModelIndex indexOf(const campaign::Point& point) const;

  private:
    void layOut();
    PointModel& points_;
    std::vector<PointAxis> down_{PointAxis::Configuration, PointAxis::SetUp, PointAxis::Method, PointAxis::Alpha};
    struct Line {
        std::vector<double> order;  ///< values or places in their lists, for the order of lines
        QString words;
    };
    std::vector<Line> rows_, columns_;
    std::vector<std::vector<int>> cells_;  ///< row of the point model; -1: none
};

}  // namespace cvane::desk
