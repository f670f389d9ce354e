#include <QImage>

int main() {
    return 0;
}
