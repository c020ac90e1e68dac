#include "campaign/methods/runner.h"

#include "campaign/methods/field_runner.h"

namespace cvane::campaign {

const Runner& runnerOf(Method method) {
    static const FieldRunner field;
    switch (method) {
        case Method::Field:
            return field;
    }
    return field;
}

}  // namespace cvane::campaign
