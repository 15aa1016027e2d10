import { useEffect, useRef } from 'react';
import { Stage } from '../../stage/stage';
import { useDesk } from './desk';

/** A stage of a size (px) out of sight, on which pictures of the character are drawn; null before it is there. */
export function useHiddenStage(width: number, height: number): { readonly current: Stage | null } {
  const { character } = useDesk();
  const stage = useRef<Stage | null>(null);
  useEffect(() => {
    const host = document.createElement('div');
    host.style.cssText = `position:fixed;left:-2000px;top:0;width:${width}px;height:${height}px`;
    document.body.append(host);
    stage.current = new Stage(host);
    stage.current.setCharacter(character);
    return () => {
      stage.current?.dispose();
      stage.current = null;
      host.remove();
    };
  }, [character, width, height]);
  return stage;
}
