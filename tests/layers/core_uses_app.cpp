#include "app/look.h"

int main() {
    return 0;
}
