import { outputStem, extensionOf } from '../name/output-name';
import { type OutputOf, outputKey } from '../parts/output-of';
import type { Preset } from '../preset/schema';
import { extensionsOf, FILE_TYPES } from '../types/table';
import { type Finding, finding } from '../vet/finding';
import type { Chances, Possible } from './chances';
import type { PresetPart } from '../parts/parts';
import { type CurrentFile, movesOn } from './earlier';
import { joinPath, placeKey, samePlace } from './file-place';
import type { FileName, WantedName } from './outcome';
import type { Standing } from './place';
import type { PixelSize } from '../size/geometry';
import type { PlanMaster, PlanRequest } from './plan';

/** One cell of the run sheet, before it is planned. */
export interface PlanCell {
  master: PlanMaster;
  /** Place in the set, for the counter. */
  index: number;
  presetId: string;
  part: string;
  /** As it makes this file. */
  preset: Preset;
  named: PresetPart['named'];
}

/** The name of an output, what stands there and at the one that its preset wants, and what is to be said of it. */
interface Named {
  fileName: string;
  at: Standing;
  wantedAt: Standing;
  warnings: Finding[];
}

export const isUpToDate = (at: Standing): boolean => at.is === 'ours' && at.upToDate;

/** The names of one run: no two outputs ever share one. */
export class Naming {
  /** By the places that are taken, the preset that took them. */
  private readonly claimed = new Map<string, string>();

  constructor(
    private readonly request: PlanRequest,
    private readonly chances: Chances,
  ) {}

  /** The name that an output gets, what stands there and at the wanted one, and what is to be said of it. */
  nameOf(cell: PlanCell, of: OutputOf, chance: Possible, own: CurrentFile | null): Named {
    const { target } = chance;
    const { name, fileName, path, key } = wantedOf(this.request.setTitle, cell, chance);
    const stays = !movesOn(this.request, of);
    if (stays && (own !== null || counts(cell.preset))) return this.withGiven(cell, of, chance, own, name);
    // Nearly every name is free.
    if (this.claimed.has(key)) return this.numbered(cell, of, chance, name);
    const at = this.request.standing(target, path, of);
    if (!this.mayUse(cell, of, at)) return this.numbered(cell, of, chance, name);
    this.claimed.set(key, cell.presetId);
    return { fileName, at, wantedAt: at, warnings: [] };
  }

  /** Names and numbers that were given stay, so that a new picture gets the next number that is free. */
  private withGiven(cell: PlanCell, of: OutputOf, chance: Possible, own: CurrentFile | null, wanted: FileName): Named {
    const { target, folder, outcome } = chance;
    const { presetId, preset } = cell;
    const keyOf = (fileName: string) => placeKey({ target, folder, fileName });
    const standingOf = (fileName: string) => this.request.standing(target, joinPath(folder, fileName), of);
    const named = (index: number) => nameAt(this.request.setTitle, cell, index, outcome.size);
    const keeps = own && samePlace(own, { target, folder, fileName: own.fileName }) && isNamedSo(own.fileName, wanted, cell, named);
    if (keeps && !this.claimed.has(keyOf(own.fileName))) {
      this.claimed.set(keyOf(own.fileName), presetId);
      const at = standingOf(own.fileName);
      return { fileName: own.fileName, at, wantedAt: at, warnings: [] };
    }
    const isGiven = (fileName: string) => {
      if (this.claimed.get(keyOf(fileName)) === presetId) return true;
      const at = standingOf(fileName);
      return this.isKept(of, at) && isOf(presetId, at);
    };
    let name = wanted;
    if (counts(preset)) for (let index = cell.index; isGiven(fileNameOf(name, 1));) name = named(++index);
    return this.numbered(cell, of, chance, name);
  }

  /** The first of a name and those with a number behind it that may be used. */
  private numbered(cell: PlanCell, of: OutputOf, { target, folder }: Possible, name: FileName): Named {
    const keyOf = (fileName: string) => placeKey({ target, folder, fileName });
    const there = new Map<string, Standing>();
    const standingOf = (fileName: string): Standing => {
      const known = there.get(fileName) ?? this.request.standing(target, joinPath(folder, fileName), of);
      there.set(fileName, known);
      return known;
    };
    const wanted = fileNameOf(name, 1);
    const isClaimed = (fileName: string) => this.claimed.has(keyOf(fileName));
    const fileName = firstName(name, (one) => !isClaimed(one) && this.mayUse(cell, of, standingOf(one)));
    const wantedAt = standingOf(wanted);
    const isOther = fileName !== wanted;
    const isForeign = wantedAt.is === 'stranger' || this.isKept(of, wantedAt);
    const warnings = [
      ...(isOther && isClaimed(wanted) ? [sameName(wanted, fileName)] : []),
      ...(wantedAt.is === 'master' ? [isMaster(wanted, fileName)] : []),
      ...(isForeign && isOther ? [isStranger(wanted, fileName)] : []),
    ];
    this.claimed.set(keyOf(fileName), cell.presetId);
    return { fileName, at: standingOf(fileName), wantedAt, warnings };
  }

  /** Whether what stands somewhere is the file of another output, which stays there. */
  isKept(of: OutputOf, at: Standing): boolean {
    if (at.is !== 'current' || outputKey(at) === outputKey(of)) return false;
    if (!movesOn(this.request, at)) return true;
    const chance = this.chances.of(at);
    // A preset that makes other files of the picture now has no use for this one.
    return chance ? chance.is === 'failed' : !this.chances.isOfRun(at);
  }

  /** Whether an output may have the name of what stands there; what is not ours is never touched: it may at most be left, or stop the run. */
  private mayUse({ preset: { existing } }: PlanCell, of: OutputOf, at: Standing): boolean {
    if (at.is === 'free' || isUpToDate(at)) return true;
    if (at.is === 'ours') return existing !== 'keep-both';
    if (at.is === 'current' && !this.isKept(of, at)) return true;
    return at.is !== 'master' && (existing === 'leave' || existing === 'stop');
  }
}

const isOf = (presetId: string, at: Standing): boolean => at.is === 'current' && at.presetId === presetId;

export const outputOf = ({ master, presetId, part }: PlanCell): OutputOf => ({ masterId: master.id, presetId, part });

const counts = ({ name }: Preset): boolean => name.parts.some(({ part }) => part === 'counter');

/** Most names of a plan are those of the one before. */
function wantedOf(set: string, cell: PlanCell, { target, folder, outcome }: Possible): WantedName {
  const { index, named } = cell;
  const known = outcome.named.last;
  if (known) {
    const { from } = known;
    const isSame = from.set === set && from.index === index && from.named === named && from.target === target && from.folder === folder;
    if (isSame) return known;
  }
  const name = nameAt(set, cell, index, outcome.size);
  const fileName = fileNameOf(name, 1);
  const found = {
    name,
    fileName,
    path: joinPath(folder, fileName),
    key: placeKey({ target, folder, fileName }),
    from: { set, index, named, target, folder },
  };
  outcome.named.last = found;
  return found;
}

/** The name that a preset gives, before it is known whether that is free. */
function nameAt(set: string, { master, preset, named }: PlanCell, index: number, size: PixelSize): FileName {
  const facts = master.read.ok ? master.read.facts : null;
  const stem = outputStem(preset.name, {
    fileName: master.fileName,
    set,
    preset: preset.title,
    index,
    width: size.width,
    height: size.height,
    captured: facts?.captured ?? null,
    creator: facts?.rights.creator ?? null,
    part: named,
  });
  const own = facts ? extensionsOf(facts.format)[0]! : '';
  return { stem, extension: FILE_TYPES[preset.file.type].extension || extensionOf(master.fileName) || own };
}

/** Whether a preset calls a file so: with any number, and with what was put behind it where the name was taken. */
function isNamedSo(fileName: string, wanted: FileName, cell: PlanCell, named: (index: number) => FileName): boolean {
  const bare = fileName.replace(/-\d+(?=\.[^.]*$)/, '');
  const isSo = (name: FileName) => [fileName, bare].includes(fileNameOf(name, 1));
  if (isSo(wanted)) return true;
  return cell.preset.name.parts.some((part) => {
    if (part.part !== 'counter') return false;
    const numbers = [...fileName.matchAll(/\d+/g)].map(([digits]) => (Number(digits) - part.start) / part.step);
    return numbers.some((index) => Number.isInteger(index) && index >= 0 && isSo(named(index)));
  });
}

/** The first of `name`, `name-2`, `name-3` ... that may be used. */
function firstName(name: FileName, isFree: (fileName: string) => boolean): string {
  for (let copy = 1; ; copy++) {
    const fileName = fileNameOf(name, copy);
    if (isFree(fileName)) return fileName;
  }
}

const fileNameOf = ({ stem, extension }: FileName, copy: number): string => `${stem}${copy === 1 ? '' : `-${copy}`}.${extension}`;

const sameName = (wanted: string, got: string): Finding =>
  finding('same-name', `Another output of this run is called ${wanted}; this one becomes ${got}.`);

const isMaster = (wanted: string, got: string): Finding =>
  finding('is-master', `${wanted} is a master in the target folder and stays untouched; the output becomes ${got}.`);

const isStranger = (wanted: string, got: string): Finding =>
  finding(
    'is-stranger',
    `${wanted} is there, is not this one’s or has been changed since, and stays untouched; the output becomes ${got}.`,
  );
