#pragma once
#include <QObject>

#include "desk/fields.h"
#include "desk/model/document.h"

namespace cvane::desk {

/// Keeps what the walls feel at a point at hand; reads it away from the window's thread.
class FieldLoader : public QObject {
    Q_OBJECT
  public:
    /// @param which  the point; without it the selected one
    explicit FieldLoader(Document& document, std::function<const campaign::PointReport*()> which = {});

    /// Starts reading when the point's result is not the one at hand. Cheap otherwise.
    void wanted();
    bool ready() const { return fields_ && fields_->grid; }
    const PointFields& fields() const { return *fields_; }
    const std::string& key() const { return key_; }  ///< of what they were read from; another result has another
    int generation() const { return generation_; }   ///< another one each time that the fields are others
    /// Why nothing can be shown: being read, failed, or no result yet.
    QString excuse() const;

  signals:
    void changed();  ///< what was wanted has been read, or another result is there to be wanted

  private:
    Document& document_;
    std::function<const campaign::PointReport*()> which_;
    Job<std::shared_ptr<const PointFields>> job_;
    std::shared_ptr<const PointFields> fields_;
    std::string key_, reading_;
    std::filesystem::path folder_;  ///< of the run whose fields are at hand, or being read
    int generation_ = 0;
};

}  // namespace cvane::desk
