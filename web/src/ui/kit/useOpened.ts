import { useWindowEvent } from '@mantine/hooks';
import { useState } from 'react';

/**
 * A menu or card that opens and closes. Escape closes it wherever the focus is, and does nothing else: what is chosen
 * stays chosen.
 */
export function useOpened(): { opened: boolean; onChange: (opened: boolean) => void } {
  const [opened, onChange] = useState(false);
  useWindowEvent(
    'keydown',
    (e) => {
      if (!opened || e.key !== 'Escape') return;
      e.stopPropagation();
      onChange(false);
    },
    true,
  );
  return { opened, onChange };
}
