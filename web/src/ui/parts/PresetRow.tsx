interface Preset {
  readonly name: string;
  readonly use: string;
}

/** Presets to begin from: a press each. */
export function PresetRow<P extends Preset>({
  presets,
  onPut,
}: {
  presets: readonly P[];
  onPut: (p: P) => void;
}) {
  return (
    <div className="presses" role="group" aria-label="Presets">
      {presets.map((preset) => (
        <button key={preset.name} className="mini" title={preset.use} onClick={() => onPut(preset)}>
          {preset.name}
        </button>
      ))}
    </div>
  );
}
