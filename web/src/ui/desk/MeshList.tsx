import type { MeshInfo } from '@oscillum/core/sheets';
import { documentOf, type Part } from '@oscillum/core/shot';
import { NOUNS } from '../../state/parts';
import { selectShot, useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { ALL_UI } from '../parts';

/** The part that moves the vertices of a mesh node. */
const mover = (parts: readonly Part[], node: number): Part | undefined =>
  parts.find((p) =>
    documentOf(p)
      .claims(p)
      .some((c) => c.path === 'points' && c.node === node),
  );

/** The meshes of the character: what each moves with, and presses that make something of the chosen one. */
export function MeshList({ meshes }: { meshes: readonly MeshInfo[] }) {
  const dispatch = useAppDispatch();
  const parts = Object.values(useAppSelector((s) => selectShot(s)!.parts));
  const chosen = useAppSelector((s) => s.view.mesh);
  const mesh = meshes.find((m) => m.node === chosen);
  const choose = (node: number) => {
    dispatch(viewSlice.actions.meshChosen(node));
    const part = mover(parts, node);
    if (part) dispatch(viewSlice.actions.partsSelected({ parts: [part.id] }));
  };
  return (
    <section className="tree" aria-label="Meshes of the character">
      <h2 className="unseen">Meshes</h2>
      <div className="list" role="listbox" aria-label="Meshes">
        {meshes.map((m) => {
          const part = mover(parts, m.node);
          return (
            <button
              key={m.node}
              role="option"
              className="mesh"
              aria-selected={m.node === chosen}
              onClick={() => choose(m.node)}
              onMouseEnter={() => dispatch(viewSlice.actions.meshHovered(m.node))}
              onMouseLeave={() => dispatch(viewSlice.actions.meshHovered(null))}
              onFocus={() => dispatch(viewSlice.actions.meshHovered(m.node))}
              onBlur={() => dispatch(viewSlice.actions.meshHovered(null))}
            >
              <span>
                {m.name}
                {part && <i>{NOUNS[part.kind]}</i>}
              </span>
              <span className="muted small">{m.vertices.toLocaleString('en')} vertices</span>
            </button>
          );
        })}
      </div>
      <div className="from-mesh">
        {mesh && !mover(parts, mesh.node) ? (
          <>
            <p className="muted small">With {mesh.name}:</p>
            <span className="presses">
              {ALL_UI.map(({ FromMesh }, i) => FromMesh && <FromMesh key={i} node={mesh.node} />)}
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
