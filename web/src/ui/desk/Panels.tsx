import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';

/** Tree to the left, stage with time or lanes below it, a panel to the right. Sizes are remembered for each room. */
export function Panels({
  room,
  left,
  centre,
  bottom,
  bottomSize,
  right,
}: {
  room: string;
  left?: React.ReactNode;
  centre: React.ReactNode;
  bottom: React.ReactNode;
  bottomSize: number;
  right: React.ReactNode;
}) {
  const across = useDefaultLayout({
    id: `oscillum.${room}.across`,
    panelIds: left ? ['left', 'middle', 'right'] : ['middle', 'right'],
    storage: localStorage,
  });
  const down = useDefaultLayout({
    id: `oscillum.${room}.down`,
    panelIds: ['centre', 'bottom'],
    storage: localStorage,
  });
  return (
    <Group
      orientation="horizontal"
      defaultLayout={across.defaultLayout}
      onLayoutChanged={across.onLayoutChanged}
    >
      {left && (
        <>
          <Panel id="left" defaultSize={206} minSize={140} maxSize={420}>
            {left}
          </Panel>
          <Separator className="sep v" />
        </>
      )}
      <Panel id="middle" minSize={360}>
        <Group
          orientation="vertical"
          defaultLayout={down.defaultLayout}
          onLayoutChanged={down.onLayoutChanged}
        >
          <Panel id="centre" minSize={160}>
            {centre}
          </Panel>
          <Separator className="sep h" />
          <Panel id="bottom" defaultSize={bottomSize} minSize={34}>
            {bottom}
          </Panel>
        </Group>
      </Panel>
      <Separator className="sep v" />
      <Panel id="right" defaultSize={322} minSize={300} maxSize={520}>
        {right}
      </Panel>
    </Group>
  );
}
