"""Fits how much each note counts for each quality of chord and writes it as TypeScript: `fit_chords.py FOLDER OUT.ts`."""
import glob
import json
import sys

import numpy as np

QUALITIES = 7
INTERVALS = [[0, 4, 7], [0, 3, 7], [0, 4, 7, 10], [0, 4, 7, 11], [0, 3, 7, 10], [0, 5, 7], [0, 3, 6]]
SCALES = {'major': {0, 2, 4, 5, 7, 9, 11}, 'minor': {0, 2, 3, 5, 7, 8, 10, 11}}
DECAY = 2e-4
STEPS = 500

beats = [json.load(open(path)) for path in sorted(glob.glob(sys.argv[1] + '/*.json'))]
rows, answers, strange, owner = [], [], [], []
for i, beat in enumerate(beats):
    foreign = np.array([[sum((root + step - beat['tonic']) % 12 not in SCALES[beat['mode']] for step in steps) for steps in INTERVALS] for root in range(12)])
    loud = sorted((span['energy'] for span in beat['spans']), reverse=True)[len(beat['spans']) // 4]
    for span in beat['spans']:
        if span['root'] < 0 or span['energy'] < 0.04 * loud:
            continue
        treble, bass = np.array(span['evidence'][:12]), np.array(span['evidence'][12:])
        rows.append([np.r_[np.roll(treble, -root), np.roll(bass, -root)] for root in range(12)])
        answers.append(span['root'] * QUALITIES + span['quality'])
        strange.append(foreign)
        owner.append(i)
x, y, strange, owner = np.array(rows), np.array(answers), np.array(strange, float), np.array(owner)


def scores(weights, x, strange):
    templates, bias, cost = weights
    return (x @ templates.T + bias - cost * strange).reshape(len(x), -1)


def fit(x, y, strange):
    """Softmax regression over roots and qualities, with the same weights for every root; Adam. Rare qualities count more, by the root of how rare they are."""
    rarity = 1 / np.sqrt(np.maximum(np.bincount(y % QUALITIES, minlength=QUALITIES), 1))
    share = rarity[y % QUALITIES] / rarity[y % QUALITIES].sum()
    weights = [np.zeros((QUALITIES, 24)), np.zeros(QUALITIES), np.zeros(1)]
    moments = [[np.zeros_like(w), np.zeros_like(w)] for w in weights]
    target = np.zeros((len(y), 12 * QUALITIES))
    target[np.arange(len(y)), y] = 1
    for step in range(1, STEPS + 1):
        s = scores(weights, x, strange)
        p = np.exp(s - s.max(1, keepdims=True))
        p /= p.sum(1, keepdims=True)
        d = ((p - target) * share[:, None]).reshape(len(y), 12, QUALITIES)
        gradients = [np.einsum('nrq,nri->qi', d, x) + DECAY * weights[0], d.sum((0, 1)), np.array([-(d * strange).sum()])]
        for w, (m, v), g in zip(weights, moments, gradients):
            m += 0.1 * (g - m)
            v += 0.01 * (g * g - v)
            w -= 0.1 * (m / (1 - 0.9**step)) / (np.sqrt(v / (1 - 0.99**step)) + 1e-8)
    return weights


found = np.zeros(len(y), int)
for fold in range(4):
    test = owner % 4 == fold
    found[test] = scores(fit(x[~test], y[~test], strange[~test]), x[test], strange[test]).argmax(1)
third = np.array([{0: 0, 2: 0, 3: 0, 1: 1, 4: 1, 5: 2, 6: 3}[q] for q in range(QUALITIES)])
same_root = found // QUALITIES == y // QUALITIES
print(f'{len(y)} half bars of {len(beats)} beats; kept out: root {same_root.mean():.3f}, third {(same_root & (third[found % QUALITIES] == third[y % QUALITIES])).mean():.3f}, all {(found == y).mean():.3f}; by quality {[round(float((found == y)[y % QUALITIES == q].mean()), 2) for q in range(QUALITIES)]}')
templates, bias, cost = fit(x, y, strange)
table = ',\n'.join('  [' + ', '.join(f'{value:.2f}' for value in row) + ']' for row in np.c_[templates, bias])
open(sys.argv[2], 'w').write(
    '/** Weights fitted by training/fit_chords.py. Do not edit. */\n\n'
    '/** For each quality what the notes from the root up count: twelve above the bass, twelve in it, and what is added. */\n'
    f'export const CHORD_WEIGHTS = [\n{table},\n]\n/** What a note that is not in the key counts against a chord. */\nexport const STRANGE_NOTE_COST = {cost[0]:.2f}\n'
)
