import { sortWords, type Shape, type ShapePiece, type Sort } from '../../core/forms/index.ts';
import { shapeWords } from '../../core/forms/index.ts';
import { Checkbox } from '~/ui/checkbox';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';

/** How a text must be written, piece by piece: exactly these characters, or so many of a sort. */
export function ShapeEditor({ shape, onChange }: { shape: Shape | undefined; onChange: (shape: Shape | undefined) => void }) {
  return (
    <fieldset>
      <legend className="sr-only">How it must be written</legend>
      <label className="flex items-center gap-2">
        <Checkbox
          checked={shape !== undefined}
          onChecked={(on) => onChange(on ? { pieces: [{ of: 'nameCharacters', least: 1, most: 20 }] } : undefined)}
        />
        It must be written in a certain way
      </label>
      {shape && (
        <div className="mt-2 ml-6 space-y-3">
          <ListEditor
            rows={shape.pieces}
            keyOf={(_, at) => at}
            nameOf={(_, at) => `piece ${at + 1}`}
            addLabel="Add a piece"
            make={(): ShapePiece => ({ of: 'digits', least: 1, most: 4 })}
            onChange={(pieces) => onChange({ ...shape, pieces })}
            least={1}
          >
            {({ row, at, set }) => <Piece piece={row} at={at} onChange={set} />}
          </ListEditor>
          <p className="text-sm text-faint">{shapeWords(shape)}</p>
          <Labelled label="What is said where it is not" help="Left empty, it is said how it must be written.">
            {(ids) => (
              <input
                {...ids}
                className="input"
                maxLength={300}
                value={shape.sentence ?? ''}
                onChange={(e) => onChange({ ...shape, sentence: e.target.value || undefined })}
              />
            )}
          </Labelled>
        </div>
      )}
    </fieldset>
  );
}

function Piece({ piece, at, onChange }: { piece: ShapePiece; at: number; onChange: (piece: ShapePiece) => void }) {
  const of = 'of' in piece ? piece.of : '';
  const name = `Piece ${at + 1}`;
  return (
    <div className="flex flex-wrap items-center gap-2">
      <div className="w-48">
        <Select
          aria-label={name}
          value={of}
          onValue={(v) =>
            onChange(v === '' ? { exactly: '' } : { of: v as Sort, least: 'of' in piece ? piece.least : 1, most: 'of' in piece ? piece.most : 4 })
          }
        >
          <option value="">Exactly</option>
          {Object.entries(sortWords).map(([sort, words]) => (
            <option key={sort} value={sort}>
              {words.charAt(0).toUpperCase() + words.slice(1)}
            </option>
          ))}
        </Select>
      </div>
      {'exactly' in piece ? (
        <input
          className="input numbers w-32"
          aria-label={`${name}: exactly what`}
          maxLength={40}
          value={piece.exactly}
          onChange={(e) => onChange({ exactly: e.target.value })}
        />
      ) : (
        <>
          <NumberField
            aria-label={`${name}: at least`}
            width="w-16"
            whole
            min={0}
            max={200}
            value={piece.least}
            onValue={(n) => n !== undefined && onChange({ ...piece, least: n })}
          />
          <span className="text-faint">to</span>
          <NumberField
            aria-label={`${name}: at most`}
            width="w-16"
            whole
            min={1}
            max={200}
            value={piece.most}
            onValue={(n) => n !== undefined && onChange({ ...piece, most: n })}
          />
        </>
      )}
    </div>
  );
}
