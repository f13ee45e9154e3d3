"""fit.py FOLDER OUT: fits the models that weigh the evidence in src/core/beat, and writes their weights as TypeScript.

FOLDER holds what make.ts wrote. A model is one hidden layer of tanh units; the loss is that of a softmax over all
readings (or keys) of a beat. A fifth of the beats is kept out of the fit: it stops the fit, and calibrates the
confidences (one temperature each). Needs Python 3 with numpy."""
import json, os, sys
from multiprocessing import Pool
import numpy as np

folder, out = sys.argv[1], sys.argv[2]
random = np.random.default_rng(5)
tracks = []
for name in sorted(os.listdir(folder)):
    if not name.endswith('.json'): continue
    meta = json.load(open(os.path.join(folder, name)))
    if meta['fours'] == 0: continue
    raw = np.fromfile(os.path.join(folder, name[:-5] + '.f32'), dtype='<f4')
    key_size = meta['keys'] * meta['keyInputs']
    keys = raw[len(raw) - key_size:].reshape(meta['keys'], meta['keyInputs'])
    body = raw[:len(raw) - key_size]
    tracks.append((meta, body, keys))
# The input counts of src/core/beat/hypotheses.ts.
FOUR, THREE = 204, 171
NOISE = float(os.environ.get('NOISE', .5)); DECAY = float(os.environ.get('DECAY', .002)); SEEDS = int(os.environ.get('SEEDS', 4)); HIDDEN = int(os.environ.get('HIDDEN', 32)); EPOCHS = int(os.environ.get('EPOCHS', 24)); MISSING = float(os.environ.get('MISSING', .05)); GAINS = float(os.environ.get('GAINS', .25)); FASTER = float(os.environ.get('FASTER', .12))


BANDS, PLACES, CHANGES, SHIFTS, CENTRES, HARMONICS, RETURNS = 5, 6, 3, 25, [-1.2, -.9, -.6, -.3, 0, .3, .6, .9], 9, (9, 9, 9)


def sources(inputs):
    """Which inputs come from one source: a band of onsets, a kind of change, the pulse's spectrum, a curve of returns; and where the tempo stands."""
    beat = BANDS * PLACES + CHANGES
    beats = 4 if inputs == FOUR else 3
    bands = [[b * beat + band * PLACES + place for b in range(beats) for place in range(PLACES)] for band in range(BANDS)]
    changes = [[b * beat + BANDS * PLACES + change for b in range(beats)] for change in range(CHANGES)]
    at = beats * beat + SHIFTS
    tempo = list(range(at, at + len(CENTRES))); at += len(CENTRES)
    curves = []
    for length in (HARMONICS, *RETURNS): curves.append(list(range(at, at + length))); at += length
    return bands, changes, tempo, curves


def heard_otherwise(beat):
    """The same beat a little slower or faster, its instruments louder or softer, some not heard at all: no fit may lean on one sound, or learn single beats by heart."""
    gains = np.exp(random.normal(0, GAINS, BANDS + CHANGES + 1 + len(RETURNS)))
    missing = random.random(len(gains)) < MISSING
    octaves = random.uniform(-FASTER, FASTER)
    given = []
    for x, bpm, (mean, std) in zip(beat[1:3], (beat[0]['bpm'][:len(beat[1])], beat[0]['bpm'][len(beat[1]):]), ((four_mean, four_std), (three_mean, three_std))):
        bands, changes, tempo, curves = sources(x.shape[1])
        raw = x * std + mean
        kinds = bands + changes + curves
        for k, (kind, gain) in enumerate(zip(kinds, gains)):
            if k < BANDS: raw[:, kind] = (raw[:, kind] + .7) * gain - .7
            elif k < BANDS + CHANGES: raw[:, kind] = ((raw[:, kind] / 2 + .7) * gain - .7) * 2
            else: raw[:, kind] *= gain
        raw[:, tempo] = np.exp(-((np.log2(bpm / 100)[:, None] + octaves - np.array(CENTRES)) / .3) ** 2)
        x = (raw - mean) / std + random.normal(0, NOISE, x.shape)
        for kind, gone in zip(kinds, missing):
            if gone: x[:, kind] = 0
        given.append(x)
    return given


class Net:
    def __init__(self, inputs, hidden, outputs, scale=0.5):
        self.w1 = random.normal(0, scale / np.sqrt(inputs), (inputs, hidden)); self.b1 = np.zeros(hidden)
        self.w2 = random.normal(0, scale / np.sqrt(hidden), (hidden, outputs)); self.b2 = np.zeros(outputs)
        self.m = [np.zeros_like(p) for p in self.params()]; self.v = [np.zeros_like(p) for p in self.params()]; self.t = 0
    def params(self): return [self.w1, self.b1, self.w2, self.b2]
    def forward(self, x):
        h = np.tanh(x @ self.w1 + self.b1)
        return h, h @ self.w2 + self.b2
    def grads(self, x, h, dy):
        dh = (dy @ self.w2.T) * (1 - h * h)
        return [x.T @ dh, dh.sum(0), h.T @ dy, dy.sum(0)]
    def step(self, grads, rate, decay):
        self.t += 1
        for p, g, m, v, d in zip(self.params(), grads, self.m, self.v, (decay, 0, decay, 0)):
            g = g + d * p
            m *= .9; m += .1 * g; v *= .999; v += .001 * g * g
            p -= rate * (m / (1 - .9 ** self.t)) / (np.sqrt(v / (1 - .999 ** self.t)) + 1e-8)
    def copy(self): return [p.copy() for p in self.params()]
    def restore(self, kept): self.w1, self.b1, self.w2, self.b2 = [p.copy() for p in kept]


def softmax(x):
    e = np.exp(x - x.max()); return e / e.sum()


def calibrate(scores, rights):
    """The temperature at which the softmax says most of what is right."""
    best = min(np.arange(.5, 4, .05), key=lambda t: -sum(np.log(max(1e-9, softmax(s / t)[r].sum())) for s, r in zip(scores, rights)))
    return float(best)


# Beats: readings.
beats = []
for meta, body, _ in tracks:
    four = body[:meta['fours'] * FOUR].reshape(-1, FOUR); three = body[meta['fours'] * FOUR:].reshape(-1, THREE)
    right = np.array([r['right'] for r in meta['readings']])
    heads = np.array([r['meter'] for r in meta['readings'][:meta['fours']]])
    meta['bpm'] = np.array([r['bpm'] for r in meta['readings']])
    beats.append((meta, four, three, heads, right))
found = np.mean([b[4].any() for b in beats])
print(len(beats), 'beats; tempo among the candidates', np.mean([b[0]['tempoFound'] for b in beats]).round(3), '; a right reading', found.round(3))
kept_out = [b for b in beats if b[0]['seed'] % 5 == 0]
fitted = [b for b in beats if b[0]['seed'] % 5 != 0 and b[4].any()]
four_mean = np.mean(np.concatenate([b[1] for b in fitted]), 0); four_std = np.std(np.concatenate([b[1] for b in fitted]), 0) + .05
three_mean = np.mean(np.concatenate([b[2] for b in fitted]), 0); three_std = np.std(np.concatenate([b[2] for b in fitted]), 0) + .05
for group in (fitted, kept_out):
    for i, (m, f, t, h, r) in enumerate(group): group[i] = (m, (f - four_mean) / four_std, (t - three_mean) / three_std, h, r)


def scores_of(nets, b):
    four, three = nets
    hf, yf = four.forward(b[1]); ht, yt = three.forward(b[2])
    return hf, yf, ht, yt, np.concatenate([yf[np.arange(len(yf)), b[3]], yt[:, 0]])


def judge(nets, group, report=False):
    loss = 0; hit = dict(tempo=0, meter=0, all=0, down=0); n = 0
    for b in group:
        if not b[4].any(): n += 1; continue
        s = scores_of(nets, b)[-1]; p = softmax(s); loss -= np.log(max(1e-12, p[b[4]].sum())); n += 1
        best = b[0]['readings'][int(np.argmax(s))]; truth = b[0]['truth']
        tempo = abs(best['bpm'] / truth['tempoBpm'] - 1) < .01
        meter = [[4, 4], [12, 8], [6, 8], [3, 4]][best['meter']] == truth['meter']
        hit['tempo'] += tempo; hit['meter'] += meter; hit['all'] += best['right']
        if report and not best['right']: print('  wrong', b[0]['seed'], truth['style'], round(truth['tempoBpm'], 2), truth['meter'], '->', round(best['bpm'], 2), best['meter'], 'drift' if truth['drift'] else '', round(float(p.max()), 2))
    return loss / n, {k: round(v / n, 3) for k, v in hit.items()}


def fit_beats(seed, hidden=HIDDEN, rate=.003, decay=DECAY, epochs=EPOCHS):
    global random
    random = np.random.default_rng(seed)
    nets = (Net(FOUR, hidden, 3), Net(THREE, hidden, 1)); best = (1e9, None)
    for epoch in range(epochs):
        order = random.permutation(len(fitted)); grads = None
        for k, i in enumerate(order):
            b = fitted[i]
            b = (b[0], *heard_otherwise(b), b[3], b[4])
            hf, yf, ht, yt, s = scores_of(nets, b)
            p = softmax(s); q = np.where(b[4], p, 0); q /= max(q.sum(), 1e-12); d = p - q
            df = np.zeros_like(yf); df[np.arange(len(yf)), b[3]] = d[:len(yf)]
            g = nets[0].grads(b[1], hf, df) + nets[1].grads(b[2], ht, d[len(yf):, None])
            grads = g if grads is None else [x + y for x, y in zip(grads, g)]
            if k % 8 == 7 or k == len(order) - 1:
                r = rate * (1 - .9 * epoch / epochs)
                nets[0].step([x / 8 for x in grads[:4]], r, decay); nets[1].step([x / 8 for x in grads[4:]], r, decay); grads = None
        loss, hit = judge(nets, kept_out)
        if loss < best[0]: best = (loss, (nets[0].copy(), nets[1].copy()))
        if epoch % 5 == 4: print('epoch', epoch + 1, 'fitted', judge(nets, fitted), 'kept out', round(loss, 3), hit, flush=True)
    nets[0].restore(best[1][0]); nets[1].restore(best[1][1])
    return nets


def joined(nets):
    """The mean of several fits of one shape, as one net with all their units."""
    one = Net(nets[0].w1.shape[0], 1, nets[0].w2.shape[1])
    one.w1 = np.concatenate([n.w1 for n in nets], 1); one.b1 = np.concatenate([n.b1 for n in nets])
    one.w2 = np.concatenate([n.w2 for n in nets]) / len(nets); one.b2 = np.mean([n.b2 for n in nets], 0)
    return one


with Pool(2) as pool: fits = pool.map(fit_beats, range(SEEDS), chunksize=1)
nets = (joined([f[0] for f in fits]), joined([f[1] for f in fits]))
print('beats, kept out:', judge(nets, kept_out, True))
beat_temperature = calibrate([scores_of(nets, b)[-1] for b in kept_out if b[4].any()], [b[4] for b in kept_out if b[4].any()])

# Keys: one row of evidence for each tonic, two heads (major, minor).
KEYS = tracks[0][2].shape[1]
key_rows = [(meta, keys.astype(float), meta['truth']['tonic'] * 2 + (meta['truth']['mode'] == 'minor')) for meta, _, keys in tracks]
key_kept = [k for k in key_rows if k[0]['seed'] % 5 == 0]; key_fit = [k for k in key_rows if k[0]['seed'] % 5 != 0]
key_mean = np.mean(np.concatenate([k[1] for k in key_fit]), 0); key_std = np.std(np.concatenate([k[1] for k in key_fit]), 0) + .05
norm = lambda group: [(m, (x - key_mean) / key_std, r) for m, x, r in group]
key_fit, key_kept = norm(key_fit), norm(key_kept)


def judge_keys(net, group):
    loss = hit = weighted = 0
    for meta, x, right in group:
        s = net.forward(x)[1].reshape(-1); p = softmax(s); loss -= np.log(max(1e-12, p[right])); best = int(np.argmax(s))
        hit += best == right; a, b = best >> 1, right >> 1; same = (best & 1) == (right & 1)
        weighted += 1 if best == right else .2 if a == b else .5 if same and (a - b) % 12 in (5, 7) else .3 if not same and a == (b + (3 if right & 1 else 9)) % 12 else 0
    return round(loss / len(group), 3), round(hit / len(group), 3), round(weighted / len(group), 3)


def fit_keys(hidden, rate=.004, decay=2 * DECAY, epochs=60):
    net = Net(KEYS, hidden, 2); best = (1e9, None)
    for epoch in range(epochs):
        for i in np.array_split(random.permutation(len(key_fit)), max(1, len(key_fit) // 8)):
            grads = None
            for j in i:
                _, x, right = key_fit[j]; x = x + random.normal(0, NOISE, x.shape); h, y = net.forward(x); p = softmax(y.reshape(-1)); p[right] -= 1
                g = net.grads(x, h, p.reshape(12, 2)); grads = g if grads is None else [a + b for a, b in zip(grads, g)]
            net.step([g / len(i) for g in grads], rate * (1 - .9 * epoch / epochs), decay)
        loss = judge_keys(net, key_kept)[0]
        if loss < best[0]: best = (loss, net.copy())
        if epoch % 10 == 9: print('keys, epoch', epoch + 1, 'fitted', judge_keys(net, key_fit), 'kept out', judge_keys(net, key_kept), flush=True)
    net.restore(best[1]); return net


key_net = joined([fit_keys(16) for _ in range(SEEDS)])
print('keys, kept out (loss, exact, weighted):', judge_keys(key_net, key_kept))
key_temperature = calibrate([key_net.forward(x)[1].reshape(-1) for _, x, _ in key_kept], [np.array([r]) for _, _, r in key_kept])
tuning = [(abs((m['tuning'] - m['truth']['tuningCents'] + 50) % 100 - 50)) for m, _, _ in tracks]
print('tuning, mean error in cents', np.mean(tuning).round(2), 'median', np.median(tuning).round(2))


def profile(mode):
    """How much each note sounds in beats of one mode, from the tonic up: treble and bass in equal parts, as shares."""
    rows = [keys[meta['truth']['tonic']] for meta, _, keys in tracks if meta['truth']['mode'] == mode]
    shares = np.mean([((row[:12] / 2) ** 2 + (row[12:24] / 2) ** 2) / 2 for row in rows], 0)
    return shares / shares.sum()


def fold_in(net, mean, std):
    """The normalisation becomes part of the first layer."""
    w1 = net.w1 / std[:, None]; b1 = net.b1 - mean @ w1
    return w1, b1, net.w2, net.b2


import base64
def pack(net, mean, std): return [base64.b64encode(np.ascontiguousarray(a.astype('<f4')).tobytes()).decode() for a in fold_in(net, mean, std)]
with open(out, 'w') as f:
    f.write('/** Weights fitted by training/fit.py; little-endian 32-bit floats in base64. Do not edit. */\n\n')
    for name, net, mean, std in (('FOUR_WEIGHTS', nets[0], four_mean, four_std), ('THREE_WEIGHTS', nets[1], three_mean, three_std), ('KEY_WEIGHTS', key_net, key_mean, key_std)):
        parts = pack(net, mean, std)
        f.write(f"export const {name} = {{\n" + ''.join(f"  {k}: '{v}',\n" for k, v in zip(('hidden', 'hiddenBias', 'output', 'outputBias'), parts)) + '}\n')
    f.write('/** How much each note sounds on average in the composed beats of a mode, from the tonic up; shares of 1. */\nexport const KEY_PROFILES = { ' + ', '.join(f"{mode}: [{', '.join(f'{share:.3f}' for share in profile(mode))}]" for mode in ('major', 'minor')) + ' }\n')
    f.write(f"/** What the scores are divided by before they become confidences. */\nexport const TEMPERATURES = {{ reading: {beat_temperature:.2f}, key: {key_temperature:.2f} }}\n")
print('temperatures', beat_temperature, key_temperature)
