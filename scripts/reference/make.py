"""Reference figures for the tests of the core, by means that share nothing with it: 50-digit arithmetic (mpmath) for
distributions and exact fractions for least squares. Run: python3 scripts/reference/make.py > src/core/testing/reference.json
"""
import json
from fractions import Fraction as F
from mpmath import mp, mpf, betainc, erfc, gamma, quad, sqrt, exp, pi, log, findroot, inf, gammainc, factorial, loggamma

mp.dps = 50


def t_upper(t, df):
    t, df = mpf(t), mpf(df)
    return betainc(df / 2, mpf(1) / 2, 0, df / (df + t * t), regularized=True) / 2


def f_upper(f, a, b):
    f, a, b = mpf(f), mpf(a), mpf(b)
    return betainc(b / 2, a / 2, 0, b / (b + a * f), regularized=True)


def quantile(upper, tail, guess):
    return findroot(lambda x: upper(x) - tail, guess)


def nct_cdf(t, df, delta):
    """The definition: a normal over the root of an independent chi-squared, integrated over the latter."""
    t, df, delta = mpf(t), mpf(df), mpf(delta)
    phi = lambda z: erfc(-z / sqrt(2)) / 2
    density = lambda w: exp((df / 2 - 1) * log(w) - w / 2 - (df / 2) * log(2) - loggamma(df / 2))
    edges = [0, df / 4, df / 2, df, 2 * df, 4 * df + 40, 10 * df + 400]
    return quad(lambda w: phi(t * sqrt(w / df) - delta) * density(w) if w > 0 else mpf(0), edges)


def ncf_cdf(f, a, b, lam):
    f, a, b, lam = mpf(f), mpf(a), mpf(b), mpf(lam)
    x = a * f / (b + a * f)
    total = mpf(0)
    for j in range(0, 900):
        weight = exp(-lam / 2 + j * log(lam / 2) - loggamma(j + 1))
        total += weight * betainc(a / 2 + j, b / 2, 0, x, regularized=True)
    return total


def over_deviation(of, df, edges):
    """Mean of a function of s = sqrt(chi-squared/df), by its density."""
    df = mpf(df)
    c = log(2) + (df / 2) * log(df / 2) - loggamma(df / 2)
    return quad(lambda s: of(s) * exp(c + (df - 1) * log(s) - df * s * s / 2) if s > 0 else mpf(0), edges)


def smm_upper(q, k, df):
    q = mpf(q)
    edges = sorted([mpf(0), 1 / q / 4, 1 / q, 2 / q, 5 / q, mpf("0.3"), mpf("0.6"), mpf(1), mpf("1.4"), mpf(2), mpf(4), mpf(12)])
    return over_deviation(lambda s: 1 - (1 - erfc(q * s / sqrt(2))) ** k, df, edges)


def range_upper(q, r, df):
    """All values within q s below the highest one (Tukey's studentized range)."""
    q = mpf(q)
    phi = lambda z: erfc(-z / sqrt(2)) / 2
    within = lambda w: r * quad(lambda z: exp(-z * z / 2) / sqrt(2 * pi) * (phi(z) - phi(z - w)) ** (r - 1), [-9, -3, 0, 3, 9 ])
    return over_deviation(lambda s: 1 - within(q * s), df, [mpf(0), mpf("0.3"), mpf("0.7"), mpf(1), mpf("1.5"), mpf(3), mpf(10)])


def range_at_fifteen(q, r, df):
    with mp.workdps(18):
        return range_upper(q, r, df)


def num(x):
    return mp.nstr(x, 25)


def solve(a, b):
    """Gauss–Jordan on fractions."""
    n = len(a)
    m = [row[:] + [b[i]] for i, row in enumerate(a)]
    for i in range(n):
        pivot = next(r for r in range(i, n) if m[r][i] != 0)
        m[i], m[pivot] = m[pivot], m[i]
        m[i] = [v / m[i][i] for v in m[i]]
        for r in range(n):
            if r != i and m[r][i] != 0:
                m[r] = [v - m[r][i] * w for v, w in zip(m[r], m[i])]
    return [row[n] for row in m]


def regression(x, y):
    """Exact coefficients, residual sum of squares, (X'X)^-1 diagonal, leverages, sequential sums of squares, PRESS."""
    x = [[F(v) for v in row] for row in x]
    y = [F(v) for v in y]
    n, p = len(x), len(x[0])
    def fit(cols):
        xtx = [[sum(x[i][a] * x[i][b] for i in range(n)) for b in cols] for a in cols]
        xty = [sum(x[i][a] * y[i] for i in range(n)) for a in cols]
        return solve(xtx, xty), xtx
    b, xtx = fit(range(p))
    rss = lambda cols: (lambda c: sum((y[i] - sum(c[k] * x[i][j] for k, j in enumerate(cols))) ** 2 for i in range(n)))(fit(cols)[0])
    inverse = [solve(xtx, [F(int(i == j)) for i in range(p)]) for j in range(p)]
    residual = [y[i] - sum(b[j] * x[i][j] for j in range(p)) for i in range(n)]
    leverage = [sum(x[i][a] * inverse[a][c] * x[i][c] for a in range(p) for c in range(p)) for i in range(n)]
    sequence = [rss(list(range(k))) if k else sum(v * v for v in y) for k in range(p + 1)]
    partial = [rss([c for c in range(p) if c != j]) - sequence[-1] for j in range(p)]
    press = sum((e / (1 - h)) ** 2 for e, h in zip(residual, leverage)) if all(h != 1 for h in leverage) else None
    mean = sum(y) / n
    digits = lambda v: num(mpf(v.numerator) / mpf(v.denominator))
    return {
        "x": [[float(v) for v in row] for row in x],
        "y": [float(v) for v in y],
        "coefficients": [digits(v) for v in b],
        "rss": digits(sequence[-1]),
        "inverse": [digits(inverse[j][j]) for j in range(p)],
        "leverage": [digits(v) for v in leverage],
        "sequential": [digits(sequence[k] - sequence[k + 1]) for k in range(p)],
        "partial": [digits(v) for v in partial],
        "press": digits(press) if press is not None else None,
        "sst": digits(sum((v - mean) ** 2 for v in y)),
    }


LONGLEY = """60323 83.0 234289 2356 1590 107608 1947
61122 88.5 259426 2325 1456 108632 1948
60171 88.2 258054 3682 1616 109773 1949
61187 89.5 284599 3351 1650 110929 1950
63221 96.2 328975 2099 3099 112075 1951
63639 98.1 346999 1932 3594 113270 1952
64989 99.0 365385 1870 3547 115094 1953
63761 100.0 363112 3578 3350 116219 1954
66019 101.2 397469 2904 3048 117388 1955
67857 104.6 419180 2822 2857 118734 1956
68169 108.4 442769 2936 2798 120445 1957
66513 110.8 444546 4681 2637 121950 1958
68655 112.6 482704 3813 2552 123366 1959
69564 114.2 502601 3931 2514 125368 1960
69331 115.7 518173 4806 2572 127852 1961
70551 116.9 554894 4007 2827 130081 1962"""
rows = [[F(v) for v in line.split()] for line in LONGLEY.split("\n")]
longley = regression([[1] + r[1:] for r in rows], [r[0] for r in rows])
powers = [[F(i) ** k for k in range(6)] for i in range(21)]
wampler1 = regression(powers, [sum(r) for r in powers])
noise = [759, -2048, 2048, -2048, 2523, -2048, 2048, -2048, 1838, -2048, 2048, -2048, 1838, -2048, 2048, -2048, 2523, -2048, 2048, -2048, 759]
tenths = [F(1, 10) ** k for k in range(6)]
# NIST gives these results to five decimals; as binary numbers they are what every program is given.
wampler2 = regression(powers, [F(float("%.5f" % float(sum(t * r for t, r in zip(tenths, row))))) for row in powers])
wampler3 = regression(powers, [sum(r) + e for r, e in zip(powers, noise)])
wampler4 = regression(powers, [sum(r) + 100 * e for r, e in zip(powers, noise)])
# Natural units that lie far from zero on very different scales: kelvin-like, kilopascal-like and parts per million.
far = [[F(1), F(u), F(v), F(w), F(u) * F(v)] for u in (1000.5, 1001.5) for v in (101325.0, 101327.0) for w in (0.0009765625, 0.001953125)]
scaled = regression(far + [[F(1), F(1001), F(101326), F(0.00146484375), F(1001) * F(101326)]], [10.25, 11.5, 9.75, 14.125, 12.0, 13.25, 10.5, 16.75, 12.5])
wampler5 = regression(powers, [sum(r) + 10000 * e for r, e in zip(powers, noise)])

# A two-factor study with a three-level category, two waves and as-run settings: dyadic values, so that binary input is exact.
temp = [50, 70, 50, 70, 60, 60, 50, 70, 60, 70.5, 50, 60]
dose = [4, 4, 8, 8, 6, 6, 4, 8, 5.5, 4, 8, 6]
kind = [0, 1, 2, 0, 1, 2, 2, 1, 0, 2, 0, 1]
wave = [1, 1, 1, 1, 1, 1, 2, 2, 2, 2, 2, 2]
y = [10.5, 12.25, 9.75, 14.5, 11.0, 10.25, 9.0, 15.75, 11.5, 11.25, 12.0, 12.75]
a = [(F(t) - 60) / 10 for t in temp]
b = [(F(d) - 6) / 2 for d in dose]
c = [(1, 0), (0, 1), (-1, -1)]
mixed = regression([[1, -1 if w == 1 else 1, a[i], b[i], c[k][0], c[k][1], a[i] * b[i]] for i, (k, w) in enumerate(zip(kind, wave))], y)

out = {
    "tUpper": [[t, df, num(t_upper(t, df))] for t, df in [(0.5, 1), (2, 3), (2.5, 7), (12, 5), (40, 22), (1.96, 400), (8, 100)]],
    "fUpper": [[f, i, j, num(f_upper(f, i, j))] for f, i, j in [(0.5, 1, 5), (4, 2, 10), (9.3, 3, 17), (150, 6, 23), (1000, 1, 9), (2.2, 30, 70)]],
    "maximumModulusUpper": [[q, k, df, num(smm_upper(q, k, df))] for q, k, df in [(2.5, 5, 10), (6, 15, 3), (180, 31, 1), (3.1, 40, 60)]],
    "studentizedRangeUpper": [[q, r, df, mp.nstr(range_at_fifteen(q, r, df), 13)] for q, r, df in [(3.5, 4, 20), (4.2, 3, 7), (9, 6, 2)]],
    "tQuantile": [[p, df, num(quantile(lambda x: t_upper(x, df), 1 - mpf(p), mpf(g)))] for p, df, g in [("0.975", 1, 12.7), ("0.975", 5, 2.57), ("0.975", 22, 2.07), ("0.9995", 3, 12.9), ("0.95", 200, 1.65), ("0.998", "5", 4.7)]],
    "fQuantile": [[p, i, j, num(quantile(lambda x: f_upper(x, i, j), 1 - mpf(p), mpf(g)))] for p, i, j, g in [("0.95", 2, 10, 4.1), ("0.99", 4, 20, 4.43), ("0.5", 6, 9, 0.95)]],
    "chiSquaredUpper": [[x, df, num(mp.gammainc(mp.mpf(df) / 2, mp.mpf(x) / 2, regularized=True))] for x, df in [(12, 5), (300, 398), (401, 402), (1500, 1500), (1700, 1500), (3000, 3200), (20000, 20000), (20900, 20000), (99000, 100000), (2000500, 2000000)]],
    "noncentralT": [[t, df, d, num(nct_cdf(t, df, d))] for t, df, d in [(2.2, 10, 1), (2.2, 10, 3), (2.57, 5, 4), (2.0, 60, 0.5), (-2.2, 10, 1), (2.1, 18, 6), (12.7, 1, 20), (2.0, 40, 12)]],
    "noncentralF": [[f, i, j, l, num(ncf_cdf(f, i, j, l))] for f, i, j, l in [(4.1, 2, 10, 3), (3.5, 3, 20, 12), (2.2, 5, 40, 60), (4.96, 1, 10, 9), (3, 4, 12, 200)]],
    "longley": longley,
    "wampler1": wampler1,
    "wampler2": wampler2,
    "wampler3": wampler3,
    "wampler4": wampler4,
    "wampler5": wampler5,
    "scaled": scaled,
    "mixed": {**mixed, "temp": temp, "dose": dose, "kind": kind, "wave": wave},
}
print(json.dumps(out, indent=1))
