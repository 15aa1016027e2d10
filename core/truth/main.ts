import { pathToFileURL } from 'node:url';
import { sameBits } from './bits';
import { bounce, fastBall, incline, momentum } from './contactRows';
import { balloonRows } from './balloonRows';
import { bodyContactRows } from './bodyContactRows';
import { bodyFastRows } from './bodyFastRows';
import { bodyRows } from './bodyRows';
import { clothMotionRows } from './clothMotion';
import { clothRows } from './clothRows';
import { linkedRows } from './linkedRows';
import { atRest, capstan } from './restRows';
import { overlap } from './overlapRows';
import { pendulums } from './pendulumRows';
import { randomShots } from './randomRows';
import { softRows } from './softRows';
import { strandRows } from './strandRows';
import { stringRows } from './stringRows';
import type { TruthRow } from './row';
import { frameRates, freeLink, heavyTip, holdLink, jointCount, travel } from './rows';
import { catenary, fallInAir, hangingChain, sizes, spin } from './worldRows';

export type { TruthRow } from './row';

/** The whole truth table in order; `quick` leaves out repeats, for tests. */
export async function truthTable(quick = false): Promise<TruthRow[]> {
  const rows = [
    ...freeLink(quick),
    ...holdLink(quick),
    ...heavyTip(),
    ...jointCount(quick),
    ...frameRates(quick),
    ...travel(quick),
    ...hangingChain(),
    ...catenary(),
    ...sizes(),
    ...spin(quick),
    ...momentum(quick),
    ...incline(quick),
    ...bounce(quick),
    ...fastBall(quick),
    ...capstan(quick),
    ...atRest(quick),
    ...fallInAir(),
    ...randomShots(quick),
    ...pendulums(quick),
    ...overlap(),
    ...linkedRows(),
    ...clothRows(quick),
    ...clothMotionRows(quick),
    ...softRows(quick),
    ...bodyRows(quick),
    ...bodyContactRows(quick),
    ...bodyFastRows(),
    ...balloonRows(),
    ...strandRows(quick),
    ...stringRows(),
    ...(await sameBits()),
  ];
  return rows.sort((a, b) => a.row - b.row);
}

/** Prints the table, or JSON; the exit code is 1 when a row fails. */
export async function printTruth(json: boolean): Promise<number> {
  const rows = await truthTable();
  if (json) console.log(JSON.stringify(rows, null, 1));
  else {
    for (const r of rows) {
      console.log(
        [
          `${String(r.row).padStart(2)}  ${r.status.padEnd(9)}  ${r.case.padEnd(72)}  `,
          `expected ${String(r.expected).padEnd(17)} measured ${String(r.measured).padEnd(17)} ${r.tolerance}`,
        ].join(''),
      );
    }
    const n = (s: TruthRow['status']) => rows.filter((r) => r.status === s).length;
    console.log(`\n${n('pass')} pass, ${n('fail')} fail`);
  }
  return rows.some((r) => r.status === 'fail') ? 1 : 0;
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href)
  process.exitCode = await printTruth(process.argv.includes('--json'));
