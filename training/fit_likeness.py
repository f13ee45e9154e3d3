"""Fits how much each piece of evidence counts for two sections being alike, and prints it: `fit_likeness.py FOLDER`."""
import glob
import json
import sys

import numpy as np

beats = [json.load(open(path)) for path in sorted(glob.glob(sys.argv[1] + '/*.json'))]
x, y, beat = (np.array(column, float) for column in zip(*[(pair['evidence'], pair['alike'], i) for i, pairs in enumerate(beats) for pair in pairs]))


def fit(x, y, decay=10):
    """Logistic regression by Newton's method; the bias last."""
    mean, deviation = x.mean(0), x.std(0) + 1e-6
    z = np.hstack([(x - mean) / deviation, np.ones((len(x), 1))])
    weights = np.zeros(z.shape[1])
    penalty = decay * np.eye(len(weights))
    penalty[-1, -1] = 1e-6
    for _ in range(30):
        p = 1 / (1 + np.exp(-z @ weights))
        weights -= np.linalg.solve((z * (p * (1 - p))[:, None]).T @ z + penalty, z.T @ (p - y) + penalty @ weights)
    return np.r_[weights[:-1] / deviation, weights[-1] - (weights[:-1] * mean / deviation).sum()]


def kept_out(x, y, beat):
    scores = np.zeros(len(y))
    for fold in range(5):
        test = beat % 5 == fold
        weights = fit(x[~test], y[~test])
        scores[test] = x[test] @ weights[:-1] + weights[-1]
    return scores


scores = kept_out(x, y, beat)
ranks = np.argsort(np.argsort(scores))
area = (ranks[y == 1].mean() - (y.sum() - 1) / 2) / (len(y) - y.sum())
print(f'{len(y)} pairs of {len(beats)} beats, {y.mean():.3f} alike; area under the curve, kept out: {area:.4f}')
print(', '.join(f'{weight:.4f}' for weight in fit(x, y)))
