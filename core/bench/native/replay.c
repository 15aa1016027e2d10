/*
 * Steps chains as ours does, from images of their memory: the functions before this (made from core/src/kernel by
 * core/bench/cSource.ts) are the same scheme in C. Usage: replay FILE ROUNDS
 * FILE: int64 count, then for each step int64 base, int64 size, int64 header (addresses in the arena) and `size` bytes.
 * Prints nanoseconds for all steps of the best round, the iterations taken and a sum of the new points.
 */
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

int main(int argc, char **argv) {
  FILE *file = fopen(argv[1], "rb");
  const int rounds = atoi(argv[2]);
  long count_of = 0, most = 0;
  if (!file || fread(&count_of, 8, 1, file) != 1) return 1;
  long (*place)[3] = malloc(24 * count_of);
  char **bytes = malloc(sizeof(char *) * count_of);
  for (long k = 0; k < count_of; k++) {
    if (fread(place[k], 8, 3, file) != 3) return 1;
    bytes[k] = malloc(place[k][1]);
    if (fread(bytes[k], 1, place[k][1], file) != (size_t)place[k][1]) return 1;
    if (place[k][0] + place[k][1] > most) most = place[k][0] + place[k][1];
  }
  char *memory = malloc(most);
  double best = 1e300, sum = 0;
  long iterations = 0;
  for (int r = 0; r < rounds; r++) {
    double ns = 0;
    sum = iterations = 0;
    for (long k = 0; k < count_of; k++) {
      struct timespec a, b;
      memcpy(memory + place[k][0], bytes[k], place[k][1]);
      read_step(memory, place[k][2]);
      clock_gettime(CLOCK_MONOTONIC, &a);
      iterations += abs(step_chain());
      clock_gettime(CLOCK_MONOTONIC, &b);
      ns += (b.tv_sec - a.tv_sec) * 1e9 + (b.tv_nsec - a.tv_nsec);
      for (int i = 0; i < 3 * (int)step_.n + 3; i++) sum += step_.x[i];
    }
    if (ns < best) best = ns;
  }
  printf("%.0f %ld %.17g\n", best, iterations, sum);
  return 0;
}
