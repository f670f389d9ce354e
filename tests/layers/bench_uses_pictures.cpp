#include "thermal/recording.h"

int main() {
    return 0;
}
