import { useMemo } from 'react';
import { meshesOf, stringsOf } from '@oscillum/core/sheets';
import { useAppDispatch, useAppSelector } from '../../state/store';
import { viewSlice } from '../../state/view';
import { useDesk } from '../kit/desk';
import { JointTree } from './JointTree';
import { MeshList } from './MeshList';

const LISTS = [
  ['joints', 'Joints', 'The joints of the character, as a tree'],
  ['meshes', 'Meshes', 'The meshes of the character: what can be cloth'],
] as const;

/** What the character is made of: its joints, or its meshes where it has some. */
export function LeftPanel() {
  const { character } = useDesk();
  const dispatch = useAppDispatch();
  const list = useAppSelector((s) => s.view.list);
  const meshes = useMemo(() => [...meshesOf(character), ...stringsOf(character)], [character]);
  if (meshes.length === 0) return <JointTree />;
  return (
    <div className="left">
      <div className="tabs" role="tablist" aria-label="What the character is made of">
        {LISTS.map(([key, name, title]) => (
          <button
            key={key}
            role="tab"
            title={title}
            aria-selected={list === key}
            onClick={() => dispatch(viewSlice.actions.listShown(key))}
          >
            {name}
          </button>
        ))}
      </div>
      {list === 'joints' ? <JointTree /> : <MeshList meshes={meshes} />}
    </div>
  );
}
