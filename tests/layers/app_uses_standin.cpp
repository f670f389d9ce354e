#include "standin/world.h"

int main() {
    return 0;
}
