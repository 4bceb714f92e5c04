import { workingMinutes } from '../calendar/index.ts';
import { namingOf, sheetFacts, analyseAssignment, type Catalogue, type Finding, type Place, type Places, type SheetFacts } from '../plans/index.ts';
import { checkDefinition, placesAtStart, type ItemDefinition, type ItemKind } from './definition.ts';

/** What is worked out from a draft for whoever edits it. */
export interface Studied {
  findings: Finding[];
  facts: SheetFacts;
  /** The step whose places these are. */
  step: string | undefined;
  /** What that step can read when it begins. */
  places: Place[];
  /** What it can read after a round of its body; the same where it has none. */
  placesInside: Place[];
  /** What is there at the plan's end. */
  end: Place[];
}

/** Works out everything at once: the findings, what the sheet says, and the places around one step. */
export function study(kind: ItemKind, definition: ItemDefinition, catalogue: Catalogue, step: string | undefined): Studied {
  const around = new Map<string, Places>();
  const { anywhere, end } = analyseAssignment(definition.plan.steps, placesAtStart(definition, kind, catalogue), catalogue, (s, here, when) => {
    if (s.id === step) around.set(when, new Map(here));
  });
  const promised = definition.promise === undefined ? undefined : workingMinutes(definition.promise);
  const list = (places: Places | undefined) => [...(places?.values() ?? [])];
  return {
    findings: checkDefinition(kind, definition, catalogue),
    facts: sheetFacts(definition.plan, namingOf(anywhere, catalogue), catalogue, promised),
    step,
    places: list(around.get('before')),
    placesInside: list(around.get('test') ?? around.get('before')),
    end: list(end),
  };
}
