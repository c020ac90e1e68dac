#pragma once
#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <map>
#include <set>

#include "desk/model/document.h"
#include "view/item_shape.h"

namespace cvane::desk {

/// The stored flow of the selected point and what its items are made of, both worked out away from the window's thread.
class FlowLoader : public QObject {
    Q_OBJECT
  public:
    /// @param which  the point; without it the selected one
    explicit FlowLoader(Document& document, std::function<const campaign::PointReport*()> which = {});
    ~FlowLoader() override;

    /// Opens the selected point's flow when it is not the one at hand. Cheap otherwise.
    void wanted();
    const field::FlowField* flow() const { return flow_.get(); }
    std::shared_ptr<const field::FlowField> shared() const { return flow_; }
    /// Those of the campaign; of one that has none yet, what a flow shows at first.
    std::vector<campaign::FlowItem> items() const;
    /// Works out the shapes that are shown and not at hand; changed() follows.
    void makeShapes();
    /// The walls' values are shown less those of this flow; null: as they are.
    void compareWith(std::shared_ptr<const field::FlowField> other, const std::string& key);
    /// Null while it is worked out.
    std::shared_ptr<const view::ItemShape> shapeOf(const campaign::FlowItem& item) const;
    /// Says in short what a shape is made from.
    std::string keyOf(const campaign::FlowItem& item) const;
    QString excuse() const;  ///< why there is no flow

  signals:
    void changed();

  private:
    struct Opened {
        std::shared_ptr<const field::FlowField> flow;
        QString error;
        double seconds = 0.0;  ///< that it took
    };
    using Shapes = std::map<std::string, std::shared_ptr<const view::ItemShape>>;

    Document& document_;
    std::function<const campaign::PointReport*()> which_;
    QThreadPool pool_;
    Job<Opened> opening_{*this, pool_};
    Job<Shapes> shaping_{*this, pool_};
    std::shared_ptr<const field::FlowField> flow_, less_;
    std::vector<campaign::FlowItem> first_;
    std::string itemKey(const campaign::FlowItem& item) const;
    std::string ownKey(const campaign::FlowItem& item) const;  ///< of its shape in the flow at hand
    std::string key_, reading_, lessKey_, beforeKey_;
    /// Values of a running point come anew all the time. Once there are some, the next wait until what the last took
    /// is a small share of the time between them.
    bool waits();
    QElapsedTimer shownFor_;  ///< since the flow at hand was
    QTimer next_;
    double cost_ = 0.0;             ///< of opening it and making its shapes [s]
    std::filesystem::path folder_;  ///< of the run whose flow is at hand, or being opened
    QString error_;
    Shapes shapes_;
    Shapes before_;                 ///< by item, of the flow before in the same run: shown until its own are there
    std::set<std::string> inWork_;  ///< keys of the shapes that are being worked out
};

}  // namespace cvane::desk
