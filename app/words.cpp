#include "app/words.h"

#include <QCoreApplication>

namespace ustor {

QString text(std::string_view words) {
    return QString::fromUtf8(words.data(), static_cast<qsizetype>(words.size()));
}

Translator translator() {
    return [](const char* source, const char* many, long number) {
        // The toolkit keeps one text for all numbers; without a translation the source has two.
        const char* const whole = many && number != 1 ? many : source;
        return QCoreApplication::translate("ustor", whole, nullptr, many ? static_cast<int>(number) : -1)
            .toStdString();
    };
}

QString text(const Message& message) {
    return QString::fromStdString(message.text(translator()));
}

QString text(const Error& error) {
    return text(error.message());
}

} // namespace ustor
