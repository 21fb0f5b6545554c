import type { Random } from "@/core/random";

/** One bench of an ordering problem, all in minutes. Infinity forbids. */
export interface OrderBench {
  /** Fixed work at both ends: the baseline first and last. */
  fixedMinutes: number;
  /** From the bench's beginning (after what is fixed first) to each job. */
  start: readonly number[];
  /** From each job to what is fixed last; 0 where nothing is. */
  end: readonly number[];
  /** Jobs that this bench may not do; none where absent. */
  forbidden?: readonly boolean[];
}

/** Jobs with sequence-dependent changes, to be put on benches in an order. */
export interface OrderProblem {
  /** Work of each job, in minutes, without changes. */
  minutes: readonly number[];
  /** change[a][b]: minutes from job a to job b. */
  change: readonly (readonly number[])[];
  benches: readonly OrderBench[];
}

/** An order found, with how good it is. */
export interface OrderFound {
  sequences: number[][];
  /** The last bench's end. */
  makespanMinutes: number;
  changeMinutes: number;
  /** No order can end sooner than this. */
  lowerBoundMinutes: number;
  exact: boolean;
}

/** Above this many jobs an exact answer takes too long to wait for. */
const MOST_EXACT = 12;
const MOST_EXACT_ON_SEVERAL = 11;
/** Among orders that end at the same time, fewer changes win. */
const CHANGE_WEIGHT = 1e-3;

const at = (matrix: readonly (readonly number[])[], a: number, b: number) => (matrix[a] as readonly number[])[b] as number;

/** Minutes of changes of one bench's sequence. */
function changesOf(problem: OrderProblem, bench: OrderBench, sequence: readonly number[]): number {
  if (sequence.length === 0) return 0;
  if (bench.forbidden && sequence.some((job) => bench.forbidden?.[job])) return Number.POSITIVE_INFINITY;
  let sum = (bench.start[sequence[0] as number] as number) + (bench.end[sequence.at(-1) as number] as number);
  for (let i = 1; i < sequence.length; i += 1) sum += at(problem.change, sequence[i - 1] as number, sequence[i] as number);
  return sum;
}

/** What some sequences come to: the last bench's end and all changes, in minutes. */
export function scoreOrder(problem: OrderProblem, sequences: readonly (readonly number[])[]): { makespanMinutes: number; changeMinutes: number } {
  let makespanMinutes = 0;
  let changeMinutes = 0;
  problem.benches.forEach((bench, b) => {
    const sequence = sequences[b] ?? [];
    const changes = changesOf(problem, bench, sequence);
    changeMinutes += changes;
    makespanMinutes = Math.max(makespanMinutes, bench.fixedMinutes + changes + sequence.reduce((sum, job) => sum + (problem.minutes[job] as number), 0));
  });
  return { makespanMinutes, changeMinutes };
}

/**
 * The cheapest path through every subset of jobs on one bench, by dynamic programming.
 *
 * Returns the cost of each subset (with start and end) and a way to read the path back.
 * Source: Held & Karp 1962, J. SIAM 10(1).
 */
function pathsOfSubsets(problem: OrderProblem, bench: OrderBench) {
  const n = problem.minutes.length;
  const full = 1 << n;
  const best = new Float64Array(full * n).fill(Number.POSITIVE_INFINITY);
  const before = new Int8Array(full * n).fill(-1);
  for (let j = 0; j < n; j += 1) best[(1 << j) * n + j] = bench.forbidden?.[j] ? Number.POSITIVE_INFINITY : (bench.start[j] as number);
  for (let mask = 1; mask < full; mask += 1) {
    for (let last = 0; last < n; last += 1) {
      const cost = best[mask * n + last] as number;
      if (cost === Number.POSITIVE_INFINITY) continue;
      for (let next = 0; next < n; next += 1) {
        if (mask & (1 << next) || bench.forbidden?.[next]) continue;
        const into = (mask | (1 << next)) * n + next;
        const reached = cost + at(problem.change, last, next);
        if (reached < (best[into] as number)) {
          best[into] = reached;
          before[into] = last;
        }
      }
    }
  }
  const cost = new Float64Array(full);
  const lastOf = new Int8Array(full).fill(-1);
  for (let mask = 1; mask < full; mask += 1) {
    cost[mask] = Number.POSITIVE_INFINITY;
    for (let last = 0; last < n; last += 1) {
      const whole = (best[mask * n + last] as number) + (bench.end[last] as number);
      if (whole < (cost[mask] as number)) {
        cost[mask] = whole;
        lastOf[mask] = last;
      }
    }
  }
  const read = (mask: number) => {
    const path: number[] = [];
    let rest = mask;
    let last = lastOf[mask] as number;
    while (rest !== 0 && last >= 0) {
      path.unshift(last);
      const previous = before[rest * n + last] as number;
      rest ^= 1 << last;
      last = previous;
    }
    return path;
  };
  return { cost, read };
}

/** The best order, by trying every subset on every bench; for few jobs. */
function orderExactly(problem: OrderProblem): number[][] {
  const n = problem.minutes.length;
  const full = 1 << n;
  const work = new Float64Array(full);
  for (let mask = 1; mask < full; mask += 1) {
    const low = Math.log2(mask & -mask);
    work[mask] = (work[mask & (mask - 1)] as number) + (problem.minutes[low] as number);
  }
  const paths = problem.benches.map((bench) => pathsOfSubsets(problem, bench));
  const endOf = (b: number, mask: number) =>
    mask === 0
      ? (problem.benches[b] as OrderBench).fixedMinutes
      : (problem.benches[b] as OrderBench).fixedMinutes + (work[mask] as number) + (paths[b]?.cost[mask] as number);
  // reached[b][mask]: the best score of the first b + 1 benches doing exactly the jobs of mask; share: what bench b does of it.
  let reached = Float64Array.from({ length: full }, (_, mask) => endOf(0, mask));
  let changes = Float64Array.from({ length: full }, (_, mask) => (mask === 0 ? 0 : (paths[0]?.cost[mask] as number)));
  const shares: Int32Array[] = [Int32Array.from({ length: full }, (_, mask) => mask)];
  for (let b = 1; b < problem.benches.length; b += 1) {
    const next = new Float64Array(full).fill(Number.POSITIVE_INFINITY);
    const nextChanges = new Float64Array(full).fill(Number.POSITIVE_INFINITY);
    const share = new Int32Array(full);
    for (let mask = 0; mask < full; mask += 1) {
      for (let part = mask; ; part = (part - 1) & mask) {
        const end = Math.max(reached[mask ^ part] as number, endOf(b, part));
        const sum = (changes[mask ^ part] as number) + (part === 0 ? 0 : (paths[b]?.cost[part] as number));
        if (end + CHANGE_WEIGHT * sum < (next[mask] as number) + CHANGE_WEIGHT * (nextChanges[mask] as number) || next[mask] === Number.POSITIVE_INFINITY) {
          next[mask] = end;
          nextChanges[mask] = sum;
          share[mask] = part;
        }
        if (part === 0) break;
      }
    }
    reached = next;
    changes = nextChanges;
    shares.push(share);
  }
  const sequences: number[][] = problem.benches.map(() => []);
  let rest = full - 1;
  for (let b = problem.benches.length - 1; b >= 0; b -= 1) {
    const part = shares[b]?.[rest] as number;
    sequences[b] = (paths[b] as ReturnType<typeof pathsOfSubsets>).read(part);
    rest ^= part;
  }
  return sequences;
}

/**
 * The cheapest assignment of rows to columns of a square matrix.
 *
 * Source: the Hungarian method by shortest augmenting paths (Jonker & Volgenant 1987, Computing 38; form from memory).
 */
export function cheapestAssignment(cost: readonly (readonly number[])[]): number {
  const n = cost.length;
  const u = new Float64Array(n + 1);
  const v = new Float64Array(n + 1);
  const match = new Int32Array(n + 1);
  const way = new Int32Array(n + 1);
  for (let i = 1; i <= n; i += 1) {
    match[0] = i;
    let j0 = 0;
    const least = new Float64Array(n + 1).fill(Number.POSITIVE_INFINITY);
    const used = new Uint8Array(n + 1);
    do {
      used[j0] = 1;
      const i0 = match[j0] as number;
      let delta = Number.POSITIVE_INFINITY;
      let j1 = 0;
      for (let j = 1; j <= n; j += 1) {
        if (used[j]) continue;
        const reduced = at(cost, i0 - 1, j - 1) - (u[i0] as number) - (v[j] as number);
        if (reduced < (least[j] as number)) {
          least[j] = reduced;
          way[j] = j0;
        }
        if ((least[j] as number) < delta) {
          delta = least[j] as number;
          j1 = j;
        }
      }
      for (let j = 0; j <= n; j += 1) {
        if (used[j]) {
          u[match[j] as number] = (u[match[j] as number] as number) + delta;
          v[j] = (v[j] as number) - delta;
        } else least[j] = (least[j] as number) - delta;
      }
      j0 = j1;
    } while (match[j0] !== 0);
    do {
      const j1 = way[j0] as number;
      match[j0] = match[j1] as number;
      j0 = j1;
    } while (j0 !== 0);
  }
  let sum = 0;
  for (let j = 1; j <= n; j += 1) sum += at(cost, (match[j] as number) - 1, j - 1);
  return sum;
}

const FORBIDDEN = 1e7;

/** Least minutes of changes, by the assignment relaxation: every job and bench has one predecessor and one successor. */
function assignmentBound({ change, benches }: OrderProblem): number {
  const n = change.length;
  const size = n + benches.length;
  const finite = (x: number) => (Number.isFinite(x) ? x : FORBIDDEN);
  const cost = Array.from({ length: size }, (_, a) =>
    Array.from({ length: size }, (_, b) => {
      if (a < n && b < n) return a === b ? FORBIDDEN : finite(at(change, a, b));
      if (a < n) return finite((benches[b - n] as OrderBench).end[a] as number);
      if (b < n) return finite((benches[a - n] as OrderBench).start[b] as number);
      return a === b ? 0 : FORBIDDEN;
    }),
  );
  return cheapestAssignment(cost);
}

/**
 * Least minutes of changes, by a spanning tree: jobs and one root for all benches are joined, whatever the direction, and
 * each used bench closes its round once. Node penalties are raised where the tree has too few and lowered where too many
 * branches (jobs have two in a round).
 *
 * Source: Held & Karp 1970/71, Operations Research 18 and Math. Programming 1 (1-tree bound by subgradient); here over
 * the smaller of both directions.
 */
function treeBound({ change, benches }: OrderProblem, rounds: number): number {
  const n = change.length;
  if (n === 0) return 0;
  const join = (a: number, b: number) => Math.min(at(change, a, b), at(change, b, a));
  const startOf = Array.from({ length: n }, (_, j) => Math.min(...benches.map(({ start }) => start[j] as number)));
  const endOf = Array.from({ length: n }, (_, j) => Math.min(...benches.map(({ end }) => end[j] as number)));
  const penalty = new Float64Array(n);
  let best = Number.NEGATIVE_INFINITY;
  let step = Math.max(1, Math.min(...startOf) + 1) / 2;
  for (let round = 0; round < rounds; round += 1) {
    // Prim's tree from the root; every round of a bench is a path of this tree's kind plus one edge back.
    const branches = new Int32Array(n);
    const cheapest = startOf.map((cost, j) => cost + (penalty[j] as number));
    const from = new Int32Array(n).fill(-1);
    const inTree = new Uint8Array(n);
    let tree = 0;
    for (let added = 0; added < n; added += 1) {
      let next = -1;
      for (let j = 0; j < n; j += 1) if (!inTree[j] && (next < 0 || (cheapest[j] as number) < (cheapest[next] as number))) next = j;
      inTree[next] = 1;
      tree += cheapest[next] as number;
      branches[next] = (branches[next] as number) + 1;
      if ((from[next] as number) >= 0) branches[from[next] as number] = (branches[from[next] as number] as number) + 1;
      for (let j = 0; j < n; j += 1) {
        if (inTree[j]) continue;
        const cost = join(next, j) + (penalty[next] as number) + (penalty[j] as number);
        if (cost < (cheapest[j] as number)) {
          cheapest[j] = cost;
          from[j] = next;
        }
      }
    }
    let back = -1;
    for (let j = 0; j < n; j += 1) {
      if (back < 0 || (endOf[j] as number) + (penalty[j] as number) < (endOf[back] as number) + (penalty[back] as number)) back = j;
    }
    branches[back] = (branches[back] as number) + 1;
    let bound = tree + (endOf[back] as number) + (penalty[back] as number);
    for (let j = 0; j < n; j += 1) bound -= 2 * (penalty[j] as number);
    // With several benches more edges lead back than the one counted; their ends cost at least nothing but carry penalties.
    if (benches.length === 1) best = Math.max(best, bound);
    else if (round === 0) best = bound;
    if (benches.length > 1) break;
    for (let j = 0; j < n; j += 1) penalty[j] = (penalty[j] as number) + step * ((branches[j] as number) - 2);
    step *= 0.97;
  }
  return best;
}

/** No order can end sooner: the larger of all work with least changes shared evenly, and of any one job alone on its best bench. */
export function lowerBound(problem: OrderProblem): number {
  const { minutes, benches } = problem;
  if (minutes.length === 0) return Math.max(0, ...benches.map(({ fixedMinutes }) => fixedMinutes));
  const changes = Math.max(assignmentBound(problem), treeBound(problem, 200), 0);
  const work = minutes.reduce((sum, one) => sum + one, 0) + benches.reduce((sum, { fixedMinutes }) => sum + fixedMinutes, 0);
  // One job needs its bench's fixed work, the cheapest way to it, itself, and the cheapest way on.
  const alone = minutes.map((one, j) => {
    const others = [...minutes.keys()].filter((i) => i !== j);
    const into = Math.min(...benches.map(({ start }) => start[j] as number), ...others.map((i) => at(problem.change, i, j)));
    const onward = Math.min(...benches.map(({ end }) => end[j] as number), ...others.map((i) => at(problem.change, j, i)));
    return one + into + onward + Math.min(...benches.map(({ fixedMinutes }) => fixedMinutes));
  });
  const shared = (work + changes) / benches.length;
  // Whole minutes stay whole: a bench cannot end at a fraction that no sum of its times has.
  const whole = [...minutes, ...problem.change.flat(), ...benches.flatMap((bench) => [bench.fixedMinutes, ...bench.start, ...bench.end])].every(
    (one) => Number.isInteger(one) || !Number.isFinite(one),
  );
  return Math.max(whole ? Math.ceil(shared - 1e-9) : shared, ...alone, ...benches.map(({ fixedMinutes }) => fixedMinutes));
}

/** Longest work first, each to where it makes the least late end, at its cheapest place: a start for the search. */
function firstOrder(problem: OrderProblem): number[][] {
  const sequences: number[][] = problem.benches.map(() => []);
  const jobs = [...problem.minutes.keys()].sort((a, b) => (problem.minutes[b] as number) - (problem.minutes[a] as number) || a - b);
  const ends = problem.benches.map(({ fixedMinutes }) => fixedMinutes);
  for (const job of jobs) {
    let best: { b: number; i: number; end: number } | undefined;
    for (const [b, bench] of problem.benches.entries()) {
      const sequence = sequences[b] as number[];
      const before = changesOf(problem, bench, sequence);
      for (let i = 0; i <= sequence.length; i += 1) {
        const tried = [...sequence.slice(0, i), job, ...sequence.slice(i)];
        const end = (ends[b] as number) + (problem.minutes[job] as number) + changesOf(problem, bench, tried) - before;
        if (!best || end < best.end) best = { b, i, end };
      }
    }
    if (!best) continue;
    sequences[best.b]?.splice(best.i, 0, job);
    ends[best.b] = best.end;
  }
  return sequences;
}

/** How far a search has come. */
export interface SearchProgress {
  share: number;
  makespanMinutes: number;
  lowerBoundMinutes: number;
}

const SLICE = 4000;

/**
 * Orders jobs on benches: exactly where they are few, otherwise by simulated annealing over moves of one to three jobs and
 * swaps, within and between benches. A generator, so that a worker can report and stop between slices.
 *
 * Shapes: n jobs, m ≥ 1 benches; a job forbidden everywhere makes the end infinite.
 * Units:  minutes.
 * Source: Held & Karp 1962 with a partition over benches (exact); Kirkpatrick, Gelatt & Vecchi 1983 (annealing).
 */
export function* orderOnBenches(problem: OrderProblem, random: Random, iterations: number): Generator<SearchProgress, OrderFound> {
  const n = problem.minutes.length;
  if (problem.benches.length === 0) throw new RangeError("an order needs at least one bench, got 0");
  const found = (sequences: number[][], exact: boolean, bound?: number): OrderFound => {
    const score = scoreOrder(problem, sequences);
    return { sequences, ...score, lowerBoundMinutes: exact ? score.makespanMinutes : (bound ?? lowerBound(problem)), exact };
  };
  if (n === 0)
    return found(
      problem.benches.map(() => []),
      true,
    );
  if (n <= (problem.benches.length === 1 ? MOST_EXACT : MOST_EXACT_ON_SEVERAL)) return found(orderExactly(problem), true);

  const bound = lowerBound(problem);
  const sequences = firstOrder(problem);
  const ends = problem.benches.map(
    (bench, b) =>
      bench.fixedMinutes +
      changesOf(problem, bench, sequences[b] as number[]) +
      (sequences[b] as number[]).reduce((sum, job) => sum + (problem.minutes[job] as number), 0),
  );
  const costOf = (list: readonly number[]) => Math.max(...list) + CHANGE_WEIGHT * list.reduce((sum, end) => sum + end, 0);
  const endOf = (b: number, sequence: readonly number[]) => {
    const bench = problem.benches[b] as OrderBench;
    let end = bench.fixedMinutes + changesOf(problem, bench, sequence);
    for (const job of sequence) end += problem.minutes[job] as number;
    return end;
  };
  let cost = costOf(ends);
  let best = sequences.map((sequence) => [...sequence]);
  let bestCost = cost;
  const pick = (below: number) => Math.floor(random.next() * below);
  const hot = Math.max(1, 0.02 * (Math.max(...ends) || 1));
  for (let i = 0; i < iterations; i += 1) {
    if (i % SLICE === 0) {
      yield { share: i / iterations, makespanMinutes: scoreOrder(problem, best).makespanMinutes, lowerBoundMinutes: bound };
      if (bestCost <= bound * (1 + CHANGE_WEIGHT * problem.benches.length)) {
        if (scoreOrder(problem, best).makespanMinutes <= bound + 1e-9) break;
      }
    }
    const a = pick(sequences.length);
    const from = sequences[a] as number[];
    if (from.length === 0) continue;
    const b = random.next() < 0.5 ? a : pick(sequences.length);
    const into = sequences[b] as number[];
    let newFrom: number[];
    let newInto: number[];
    if (a !== b && into.length > 0 && random.next() < 0.4) {
      const [x, y] = [pick(from.length), pick(into.length)];
      newFrom = from.with(x, into[y] as number);
      newInto = into.with(y, from[x] as number);
    } else {
      const x = pick(from.length);
      const piece = from.slice(x, x + 1 + pick(Math.min(a === b ? 3 : 2, from.length - x)));
      if (random.next() < 0.3) piece.reverse();
      newFrom = [...from.slice(0, x), ...from.slice(x + piece.length)];
      const target = a === b ? newFrom : into;
      const y = pick(target.length + 1);
      newInto = [...target.slice(0, y), ...piece, ...target.slice(y)];
      if (a === b) newFrom = newInto;
    }
    const endA = endOf(a, a === b ? newInto : newFrom);
    const endB = a === b ? endA : endOf(b, newInto);
    const tried = costOf(ends.with(a, endA).with(b, endB));
    const heat = hot * (1 - i / iterations) ** 3 + 1e-6;
    if (tried <= cost || random.next() < Math.exp((cost - tried) / heat)) {
      sequences[a] = newFrom;
      sequences[b] = newInto;
      ends[a] = endA;
      ends[b] = endB;
      cost = tried;
      if (cost < bestCost - 1e-9) {
        bestCost = cost;
        best = sequences.map((sequence) => [...sequence]);
      }
    }
  }
  return found(best, false, bound);
}

/** Runs a search to its end without stopping. */
export function finishSearch<T>(search: Generator<SearchProgress, T>): T {
  for (;;) {
    const step = search.next();
    if (step.done) return step.value;
  }
}
