import { Fragment, useMemo } from 'react';
import { hasLinesAlone, regionsOf, type MeshInfo, type RegionInfo } from '@oscillum/core/sheets';
import { documentOf, type Part } from '@oscillum/core/shot';
import { NOUNS } from '../../state/parts';
import { selectShot, useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { useDesk } from '../kit/desk';
import { ALL_UI } from '../parts';

/** The part that has the vertices of a mesh node for itself; or, where `any`, one that adds to them at least. */
const mover = (parts: readonly Part[], node: number, any = false): Part | undefined =>
  parts.find((p) =>
    documentOf(p)
      .claims(p)
      .some((c) => c.path === 'points' && c.node === node && (any || !c.shared)),
  );

interface OptionProps {
  name: string;
  vertices: number;
  /** What it moves as, if anything moves it. */
  moves?: string | undefined;
  /** A part of the mesh above it. */
  inner?: boolean;
  selected: boolean;
  onChoose: () => void;
  onHover: (on: boolean) => void;
}

/** A mesh or a part of one, to be chosen; under the pointer it is lit on the stage. */
function Option({ name, vertices, moves, inner, selected, onChoose, onHover }: OptionProps) {
  return (
    <button
      role="option"
      className={inner ? 'mesh inner' : 'mesh'}
      aria-selected={selected}
      onClick={onChoose}
      onMouseEnter={() => onHover(true)}
      onMouseLeave={() => onHover(false)}
      onFocus={() => onHover(true)}
      onBlur={() => onHover(false)}
    >
      <span>
        {name}
        {moves && <i>{moves}</i>}
      </span>
      <span className="muted small" title={inner ? 'vertices' : undefined}>
        {vertices.toLocaleString('en')} {!inner && 'vertices'}
      </span>
    </button>
  );
}

const KINDS = [
  ['piece', 'Pieces'],
  ['material', 'Materials'],
  ['joint', 'Weighed by a joint'],
] as const;

/** The parts of a mesh: pieces, materials, and what a joint weighs by half or more. */
function Regions({ node }: { node: number }) {
  const dispatch = useAppDispatch();
  const { character } = useDesk();
  const chosen = useAppSelector((s) => s.view.region);
  const regions = useMemo(() => regionsOf(character, node), [character, node]);
  const same = (r: RegionInfo) => JSON.stringify(r.region) === JSON.stringify(chosen);
  return KINDS.map(([by, title]) => {
    const own = regions.filter((r) => r.region.by === by);
    if (own.length === 0) return null;
    return (
      <details key={by} className="regions" open={by !== 'joint' || undefined}>
        <summary>
          {title} <span className="muted small">{own.length}</span>
        </summary>
        {own.map((r) => (
          <Option
            key={JSON.stringify(r.region)}
            inner
            name={r.name}
            vertices={r.vertices}
            selected={same(r)}
            onChoose={() =>
              dispatch(viewSlice.actions.meshChosen({ mesh: node, region: same(r) ? null : r.region }))
            }
            onHover={(on) =>
              dispatch(
                viewSlice.actions.meshHovered({
                  hoverMesh: on ? node : null,
                  hoverRegion: on ? r.region : null,
                }),
              )
            }
          />
        ))}
      </details>
    );
  });
}

/** The meshes of the character: what each moves with, and presses that make something of the chosen one. */
export function MeshList({ meshes }: { meshes: readonly MeshInfo[] }) {
  const dispatch = useAppDispatch();
  const parts = Object.values(useAppSelector((s) => selectShot(s)!.parts));
  const chosen = useAppSelector((s) => s.view.mesh);
  const region = useAppSelector((s) => s.view.region);
  const { character } = useDesk();
  const mesh = meshes.find((m) => m.node === chosen);
  const lines = mesh !== undefined && hasLinesAlone(character, mesh.node);
  const choose = (node: number) => {
    dispatch(viewSlice.actions.meshChosen({ mesh: node, region: null }));
    const part = mover(parts, node, true);
    if (part) dispatch(viewSlice.actions.partsSelected({ parts: [part.id] }));
  };
  return (
    <section className="tree" aria-label="Meshes of the character">
      <h2 className="unseen">Meshes</h2>
      <div className="list" role="listbox" aria-label="Meshes">
        {meshes.map((m) => {
          const part = mover(parts, m.node, true);
          return (
            <Fragment key={m.node}>
              <Option
                name={m.name}
                vertices={m.vertices}
                moves={part && NOUNS[part.kind]}
                selected={m.node === chosen && !region}
                onChoose={() => choose(m.node)}
                onHover={(on) =>
                  dispatch(
                    viewSlice.actions.meshHovered({ hoverMesh: on ? m.node : null, hoverRegion: null }),
                  )
                }
              />
              {m.node === chosen && !mover(parts, m.node) && <Regions node={m.node} />}
            </Fragment>
          );
        })}
      </div>
      <div className="from-mesh">
        {mesh && !mover(parts, mesh.node) ? (
          <>
            <p className="muted small">
              With {region ? `that part of ${mesh.name}: the rest stays as it is` : mesh.name}:
            </p>
            <span className="presses">
              {ALL_UI.map(
                ({ FromMesh, fromLines }, i) =>
                  FromMesh && (fromLines || !lines) && <FromMesh key={i} node={mesh.node} region={region} />,
              )}
            </span>
          </>
        ) : (
          <p className="muted small">
            {mesh
              ? `${mesh.name} moves by itself: its settings stand to the right.`
              : 'Choose a mesh to make it move by itself.'}
          </p>
        )}
      </div>
    </section>
  );
}
