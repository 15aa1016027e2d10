/*
 * Steps points as ours does, from an image of their memory: the functions before this (made from core/src/kernel by
 * core/bench/cSource.ts) are the same scheme in C. Usage: steps FILE STEPS SELDOM ROUNDS
 * FILE: int64 base, int64 size, int64 header (addresses in the arena) and `size` bytes.
 * Prints nanoseconds for all steps of the best round and a sum of the places after them.
 */
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

int main(int argc, char **argv) {
  FILE *file = fopen(argv[1], "rb");
  const int steps = atoi(argv[2]), seldom = atoi(argv[3]), rounds = atoi(argv[4]);
  long place[3];
  if (!file || fread(place, 8, 3, file) != 3) return 1;
  char *bytes = malloc(place[1]), *memory = calloc(1, place[0] + place[1]);
  if (fread(bytes, 1, place[1], file) != (size_t)place[1]) return 1;
  double best = 1e300, sum = 0;
  for (int r = 0; r < rounds; r++) {
    struct timespec a, b;
    memcpy(memory + place[0], bytes, place[1]);
    read_step(memory, place[2]);
    clock_gettime(CLOCK_MONOTONIC, &a);
    for (int k = 0; k < steps; k++) step_once(k % seldom == 0);
    clock_gettime(CLOCK_MONOTONIC, &b);
    const double ns = (b.tv_sec - a.tv_sec) * 1e9 + (b.tv_nsec - a.tv_nsec);
    if (ns < best) best = ns;
    sum = 0;
    for (int i = 0; i < 3 * (int)step_.points; i++) sum += step_.x[i];
  }
  printf("%.0f %.17g\n", best, sum);
  return 0;
}
