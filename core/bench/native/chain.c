/*
 * The plain native loop the benchmarks stand beside: one-pass position-based chains (first order), with hold as a pull
 * on angles and hard lengths, single precision, no convergence asked. Usage: chain CHAINS LINKS STEPS BEND
 * Prints milliseconds for all steps.
 */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

int main(int argc, char **argv) {
  const int chains = atoi(argv[1]), links = atoi(argv[2]), steps = atoi(argv[3]), bend = atoi(argv[4]);
  const int n = links + 1;
  const float l = 0.05f, h = 1.0f / 240, damp = 0.995f, hold = 0.01f, stiff = 0.1f;
  float *x = malloc(sizeof(float) * 3 * n * chains), *p = malloc(sizeof(float) * 3 * n * chains);
  for (int c = 0; c < chains; c++)
    for (int i = 0; i < n; i++) {
      float *a = x + 3 * (c * n + i);
      a[0] = l * i, a[1] = 0.01f * c, a[2] = 0;
      for (int k = 0; k < 3; k++) p[3 * (c * n + i) + k] = a[k];
    }
  struct timespec t0, t1;
  clock_gettime(CLOCK_MONOTONIC, &t0);
  for (int s = 0; s < steps; s++) {
    const float sway = 0.2f * sinf(s * 0.02f);
    for (int c = 0; c < chains; c++) {
      float *X = x + 3 * c * n, *P = p + 3 * c * n;
      X[0] = sway;
      for (int i = 1; i < n; i++) {
        for (int k = 0; k < 3; k++) {
          const float v = (X[3 * i + k] - P[3 * i + k]) * damp;
          P[3 * i + k] = X[3 * i + k];
          X[3 * i + k] += v - (k == 1 ? 9.81f * h * h : 0);
        }
      }
      for (int i = 1; i < n; i++) {
        float *a = X + 3 * (i - 1), *b = X + 3 * i;
        float d[3] = {b[0] - a[0], b[1] - a[1], b[2] - a[2]};
        d[0] += hold * (l - d[0]), d[1] -= hold * d[1], d[2] -= hold * d[2];
        if (bend && i > 1) {
          float *z = X + 3 * (i - 2);
          for (int k = 0; k < 3; k++) d[k] += stiff * ((a[k] - z[k]) - d[k]);
        }
        const float r = l / sqrtf(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
        for (int k = 0; k < 3; k++) b[k] = a[k] + d[k] * r;
      }
    }
  }
  clock_gettime(CLOCK_MONOTONIC, &t1);
  double sum = 0;
  for (int i = 0; i < 3 * n * chains; i++) sum += x[i];
  printf("%.6f %.3f\n", (t1.tv_sec - t0.tv_sec) * 1e3 + (t1.tv_nsec - t0.tv_nsec) / 1e6, sum);
  return 0;
}
