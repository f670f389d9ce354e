#include "rail/network.h"

int main() {
    return 0;
}
