import { useState } from 'react';
import {
  DEFAULT_FIT,
  DEFAULT_JOINTS,
  type BakeOptions,
  type FitCost,
  type FitReport,
  type VertexFit,
} from '@oscillum/core/bake';
import type { Weighed } from '@oscillum/core/handoff';
import type { Shot } from '@oscillum/core/shot';
import { WorkError } from '../../../sim/asks';
import { useDesk } from '../../kit/desk';
import { CheckRow, ChoiceRow, NumberRow } from '../../kit/Rows';
import { sayTrouble } from '../../kit/say';
import { CostPictures, type CostPicture } from './CostPictures';
import { size } from './Result';

/** What is weighed against each other before a bake. */
const WEIGHED: readonly VertexFit[] = [
  ...[16, 32, 64].map((most): VertexFit => ({ to: 'morphs', most, millimetres: 0 })),
  ...[12, 24, 40].map((count): VertexFit => ({ to: 'joints', count, under: null })),
];

/** What vertices that move one by one become in the file, and what each way of it costs. */
export function VertexRows({
  shot,
  options,
  set,
}: {
  shot: Shot;
  options: BakeOptions;
  set: (values: Partial<BakeOptions>) => void;
}) {
  const { character } = useDesk();
  const { vertices } = options;
  const put = (fit: VertexFit) => set({ vertices: fit });
  return (
    <>
      <h3>Cloth and soft parts become</h3>
      <ChoiceRow
        label="Points become"
        says="Keyframes move joints and morph targets, so what moves point by point is fitted onto one of them"
        value={vertices.to}
        choices={[
          ['morphs', 'morph targets'],
          ['joints', 'helper joints'],
        ]}
        onSet={(to) => put(to === 'morphs' ? DEFAULT_FIT : DEFAULT_JOINTS)}
      />
      {vertices.to === 'morphs' ? (
        <MorphRows vertices={vertices} put={put} />
      ) : (
        <>
          <NumberRow
            label="How many"
            whole
            value={vertices.count}
            onSet={(count) => put({ ...vertices, count })}
          />
          <ChoiceRow
            label="They hang from"
            value={vertices.under === null ? 'own' : String(vertices.under)}
            choices={[
              ['own', 'the joint that holds most'],
              ...Array.from(
                character.joints,
                (j) => [String(j), character.nodes[j]!.name] as [string, string],
              ),
            ]}
            onSet={(under) => put({ ...vertices, under: under === 'own' ? null : Number(under) })}
          />
        </>
      )}
      <CostTable shot={shot} options={options} onChoose={put} />
    </>
  );
}

/** How many morph targets, and what they may leave. */
function MorphRows({
  vertices,
  put,
}: {
  vertices: Extract<VertexFit, { to: 'morphs' }>;
  put: (fit: VertexFit) => void;
}) {
  return (
    <>
      <NumberRow
        label="At most"
        says="So many morph targets"
        whole
        value={vertices.most}
        onSet={(most) => put({ ...vertices, most })}
      />
      <NumberRow
        label="Error"
        unit="mm"
        says="No more morph targets are made than this error needs"
        value={vertices.millimetres}
        onSet={(millimetres) => put({ ...vertices, millimetres })}
      />
      <ChoiceRow
        label="Error of"
        value={vertices.largest ? 'largest' : 'mean'}
        choices={[
          ['mean', 'all points (RMS)'],
          ['largest', 'the farthest point'],
        ]}
        onSet={(of) => put({ ...vertices, largest: of === 'largest' })}
      />
      <CheckRow
        label="Sparse"
        says="Vertices that a target leaves where they are take no room in the file. Most programs read it"
        value={vertices.sparse ?? false}
        onSet={(sparse) => put({ ...vertices, sparse })}
      />
    </>
  );
}

/** Errors and sizes of all ways side by side, asked for by a press: the shot is simulated for it. */
function CostTable({
  shot,
  options,
  onChoose,
}: {
  shot: Shot;
  options: BakeOptions;
  onChoose: (fit: VertexFit) => void;
}) {
  const { simulation } = useDesk();
  const [share, setShare] = useState<number | null>(null);
  const [found, setFound] = useState<{ shot: Shot; costs: Weighed } | null>(null);
  const [drawn, setDrawn] = useState(true);
  const ask = async () => {
    setShare(0);
    setDrawn(true);
    try {
      setFound({ shot, costs: await simulation.weighFits(shot, options, WEIGHED, setShare) });
    } catch (e) {
      if (!(e instanceof WorkError)) throw e;
      sayTrouble(e.trouble.sentence);
    } finally {
      setShare(null);
    }
  };
  // What was weighed of a shot that has changed since would mislead.
  const costs = found?.shot === shot ? found.costs : null;
  return (
    <>
      <button
        className="soft"
        disabled={share !== null}
        title="Bakes the shot and fits its points in six ways, so that errors and sizes can be compared"
        onClick={() => void ask()}
      >
        {share === null ? 'What would it cost?' : `Fitting, ${Math.round(100 * share)} %`}
      </button>
      {costs && drawn && (
        <CostPictures shot={shot} pictures={picturesOf(costs, onChoose)} onClose={() => setDrawn(false)} />
      )}
      {costs && (
        <table className="costs" aria-label="Costs">
          <thead>
            <tr>
              <th>Becomes</th>
              <th title="Root of the mean square over all points and frames, and the largest">Error, mm</th>
              <th>Size</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {WEIGHED.map((fit, k) => (
              <tr key={k}>
                <td>{fit.to === 'morphs' ? `${fit.most} morph targets` : `${fit.count} joints`}</td>
                <td>{errorText(costs.fits[k]!.reports)}</td>
                <td>{size(bytesOf(costs.fits[k]!))}</td>
                <td>
                  <button className="mini" aria-label={`Use ${nameOf(fit)}`} onClick={() => onChoose(fit)}>
                    use
                  </button>
                </td>
              </tr>
            ))}
            <tr title="Tick it under Files: no fit, every point on every frame">
              <td>USD points</td>
              <td>0 · 0</td>
              <td>{size(costs.points['points.usda'])}</td>
              <td />
            </tr>
          </tbody>
        </table>
      )}
    </>
  );
}

const bytesOf = ({ reports }: FitCost): number => reports.reduce((n, r) => n + r.bytes, 0);

/** The ways as they are drawn, after the cloth as it is simulated. */
const picturesOf = (costs: Weighed, onChoose: (fit: VertexFit) => void): CostPicture[] => [
  {
    ...{ name: 'As simulated', cost: null, onUse: null },
    says: ['USD points', size(costs.points['points.usda'])],
  },
  ...WEIGHED.map((fit, k): CostPicture => {
    const cost = costs.fits[k]!;
    const [rms, most] = errorText(cost.reports).split(' · ');
    return {
      ...{ name: nameOf(fit), cost, onUse: () => onChoose(fit) },
      says: [`${rms} mm, ${most} at most`, size(bytesOf(cost))],
    };
  }),
];

const nameOf = (fit: VertexFit): string =>
  fit.to === 'morphs' ? `${fit.most} morph targets` : `${fit.count} helper joints`;

function errorText(reports: readonly FitReport[]): string {
  const worst = (of: (r: FitReport) => number) => reports.reduce((m, r) => Math.max(m, of(r)), 0);
  return `${worst((r) => r.rms).toFixed(1)} · ${worst((r) => r.largest).toFixed(0)}`;
}
