/* The linear-blend skin of core/skin in plain C, for scripts/bench: same data layout, same sums, one thread. */
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <time.h>

enum { COUNT = 50000, JOINTS = 64, INFLUENCES = 4, ROUNDS = 300 };

static float positions[3 * COUNT], normals[3 * COUNT], outPositions[3 * COUNT], outNormals[3 * COUNT];
static float values[INFLUENCES * COUNT], palette[JOINTS][12];
static uint16_t joints[INFLUENCES * COUNT];

static void deform(void) {
  for (int v = 0; v < COUNT; v++) {
    float m[12] = {0};
    for (int k = 0; k < INFLUENCES; k++) {
      float w = values[INFLUENCES * v + k];
      if (w == 0) break;
      const float *j = palette[joints[INFLUENCES * v + k]];
      for (int i = 0; i < 12; i++) m[i] += w * j[i];
    }
    const float *p = positions + 3 * v, *n = normals + 3 * v;
    float *q = outPositions + 3 * v, *o = outNormals + 3 * v;
    for (int r = 0; r < 3; r++) q[r] = m[4 * r] * p[0] + m[4 * r + 1] * p[1] + m[4 * r + 2] * p[2] + m[4 * r + 3];
    float t[3];
    const float *a = m, *b = m + 4, *c = m + 8;
    float an[3] = {a[1] * n[2] - a[2] * n[1], a[2] * n[0] - a[0] * n[2], a[0] * n[1] - a[1] * n[0]};
    float cn[3] = {c[1] * n[2] - c[2] * n[1], c[2] * n[0] - c[0] * n[2], c[0] * n[1] - c[1] * n[0]};
    t[0] = b[0] * cn[0] + b[1] * cn[1] + b[2] * cn[2];
    t[1] = -(a[0] * cn[0] + a[1] * cn[1] + a[2] * cn[2]);
    t[2] = -(b[0] * an[0] + b[1] * an[1] + b[2] * an[2]);
    float length = sqrtf(t[0] * t[0] + t[1] * t[1] + t[2] * t[2]);
    for (int r = 0; r < 3; r++) o[r] = length < 1e-20f ? n[r] : t[r] / length;
  }
}

int main(void) {
  static const float shares[INFLUENCES] = {0.4f, 0.3f, 0.2f, 0.1f};
  for (int i = 0; i < 3 * COUNT; i++) {
    positions[i] = 9.0f * rand() / RAND_MAX;
    normals[i] = 0.5773503f;
  }
  for (int v = 0; v < COUNT; v++)
    for (int k = 0; k < INFLUENCES; k++) {
      joints[INFLUENCES * v + k] = (v + k) % JOINTS;
      values[INFLUENCES * v + k] = shares[k];
    }
  for (int j = 0; j < JOINTS; j++) {
    float c = cosf(j / 9.0f), s = sinf(j / 9.0f);
    float m[12] = {c, 0, s, 0, 0, 1, 0, 0, -s, 0, c, 0};
    for (int i = 0; i < 12; i++) palette[j][i] = m[i];
  }
  deform();
  struct timespec a, b;
  clock_gettime(CLOCK_MONOTONIC, &a);
  for (int r = 0; r < ROUNDS; r++) deform();
  clock_gettime(CLOCK_MONOTONIC, &b);
  double ns = (b.tv_sec - a.tv_sec) * 1e9 + (b.tv_nsec - a.tv_nsec);
  volatile float keep = outPositions[7] + outNormals[11];
  (void)keep;
  printf("%.3f\n", ns / ROUNDS / COUNT);
  return 0;
}
