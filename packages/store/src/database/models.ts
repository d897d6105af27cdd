import type {
  Choice,
  Filter,
  Finding,
  HouseRules,
  MasterFacts,
  Measures,
  OutputState,
  Preset,
  Problem,
  StudioDetails,
  OnceByPreset,
  Overrides,
  Place,
  MarkEdge,
  Typeface,
} from '@rundle/core';
import type { Model } from 'sequelize';
import {
  type CreationOptional,
  DataTypes,
  type InferAttributes,
  type InferCreationAttributes,
  type ModelStatic,
  type Sequelize,
} from 'sequelize';

export interface SetRow extends Model<InferAttributes<SetRow>, InferCreationAttributes<SetRow>> {
  id: CreationOptional<string>;
  title: string;
  createdAt: CreationOptional<Date>;
  filter: CreationOptional<Partial<Filter>>;
  /** The presets chosen for it. */
  presetIds: CreationOptional<string[]>;
  houseRulesId: CreationOptional<string | null>;
  archivedAt: CreationOptional<Date | null>;
  /** When it went to the bin; null: it is there. */
  deletedAt: CreationOptional<Date | null>;
  /** The folder of its outputs, which a new title does not change; null until its first run. */
  target: CreationOptional<string | null>;
  /** Rights details of its own, over the studio's; what is empty there is not filled from here. */
  rights: CreationOptional<Partial<StudioDetails>>;
  /** Where its files go. */
  place: CreationOptional<Place>;
  /** What is varied of its presets this once. */
  once: CreationOptional<OnceByPreset>;
}

export interface MasterRow extends Model<InferAttributes<MasterRow>, InferCreationAttributes<MasterRow>> {
  id: CreationOptional<string>;
  setId: string;
  /** Order in the set. */
  position: number;
  fileName: string;
  /** Null until a file of the machine has been read. */
  sha256: string | null;
  /** Where it lies on the machine; null: in the store. */
  sourcePath: CreationOptional<string | null>;
  /** The file's own time, ms since 1970; null where the browser did not tell. */
  sourceMtimeMs: CreationOptional<number | null>;
  /** BIGINT comes from the driver as text. */
  bytes: number | string;
  /** Uploads stand in the order of these numbers among themselves, until somebody puts them into another; null: no upload. */
  arrival: CreationOptional<number | null>;
  state: 'arriving' | 'ready' | 'failed';
  facts: MasterFacts | null;
  problem: Problem | null;
  stars: CreationOptional<number>;
  /** Whether the stars were given, or taken from the file; until then its rating may still become them. */
  starsSet: CreationOptional<boolean>;
  choice: CreationOptional<Choice>;
  tags: CreationOptional<string[]>;
  overrides: CreationOptional<Partial<Overrides>>;
  /** When it went to the bin; null: it is in the set. */
  removedAt: CreationOptional<Date | null>;
}

export interface PresetRow extends Model<InferAttributes<PresetRow>, InferCreationAttributes<PresetRow>> {
  id: CreationOptional<string>;
  version: number;
  position: number;
  /** The group that it stands in; empty: none. */
  groupName: CreationOptional<string>;
  favourite: CreationOptional<boolean>;
  deletedAt: Date | null;
  updatedAt: Date;
}

/** A preset as it was at one version; never changed, since outputs name the version that made them. */
export interface PresetVersionRow extends Model<InferAttributes<PresetVersionRow>, InferCreationAttributes<PresetVersionRow>> {
  presetId: string;
  version: number;
  body: Preset;
  /** Null for versions of earlier releases. */
  madeAt: CreationOptional<Date | null>;
}

/** Presets that are chosen together. */
export interface BundleRow extends Model<InferAttributes<BundleRow>, InferCreationAttributes<BundleRow>> {
  id: CreationOptional<string>;
  title: string;
  presetIds: string[];
  createdAt: CreationOptional<Date>;
}

export interface RunRow extends Model<InferAttributes<RunRow>, InferCreationAttributes<RunRow>> {
  id: CreationOptional<string>;
  setId: string;
  state: 'running' | 'paused' | 'done' | 'cancelled';
  presetIds: string[];
  startedAt: CreationOptional<Date>;
  finishedAt: Date | null;
  /** When somebody asked to cancel it; it ends when what was begun has ended. */
  cancelAskedAt: CreationOptional<Date | null>;
  /** The rights details as they were when it was started; null for runs of earlier releases. */
  studio: CreationOptional<StudioDetails | null>;
  /** What the receiver demanded then; null: nothing. */
  house: CreationOptional<HouseRules | null>;
  /** Its place in the line of open runs; lower goes first. */
  line: CreationOptional<number>;
  /** Where its files go. */
  place: CreationOptional<Place>;
  /** What was varied of its presets. */
  once: CreationOptional<OnceByPreset>;
  /** The pictures or outputs that it was for; empty: all. */
  scope: CreationOptional<RunScope>;
}

/** What a run is confined to. */
export interface RunScope {
  masterIds?: string[];
  pairs?: { masterId: string; presetId: string }[];
}

/** What an output was made of, in short: by it can be told what has changed since. */
export interface MadeOf {
  master: string;
  details: string;
  watermark: string | null;
  /** What was varied of its preset. */
  once: string;
}

export interface OutputRow extends Model<InferAttributes<OutputRow>, InferCreationAttributes<OutputRow>> {
  id: CreationOptional<string>;
  runId: string;
  masterId: string;
  presetId: string;
  presetVersion: number;
  /** Order in the run sheet. */
  position: number;
  state: OutputState;
  /** Where it stands: the folder of its set, a folder below that, and its name. */
  target: string;
  folder: string;
  fileName: string;
  /** SHA-256 of its bytes, written down before it is put in place; null until then, and for outputs of earlier releases. */
  content: CreationOptional<string | null>;
  /** The attempt that may write about it; BIGINT comes from the driver as text. */
  attempt: CreationOptional<number | string>;
  width: number;
  height: number;
  expectedBytes: number;
  replaces: boolean;
  bytes: number | null;
  quality: number | null;
  warnings: Finding[];
  error: Problem | null;
  finishedAt: Date | null;
  /** Whether it is the newest that is done of all that were made at its place: the file that stands there is its own. */
  isNewest: CreationOptional<boolean>;
  /** What it is made of, hashed; null for outputs of earlier releases. */
  recipe: string | null;
  /** Number of the engine that makes it; null for outputs of earlier releases. */
  engine: CreationOptional<number | null>;
  measures: Measures | null;
  /** How long a worker would be busy with it on an ordinary machine, and how long one was, ms. */
  expectedMs: CreationOptional<number>;
  ms: CreationOptional<number | null>;
  madeOf: CreationOptional<MadeOf | null>;
}

/** A watermark; never changed once it is there, since outputs were made with it. */
export interface WatermarkRow extends Model<InferAttributes<WatermarkRow>, InferCreationAttributes<WatermarkRow>> {
  id: CreationOptional<string>;
  title: string;
  kind: 'text' | 'png' | 'svg';
  text: string | null;
  colour: string | null;
  typeface: CreationOptional<Typeface>;
  edge: CreationOptional<MarkEdge>;
  adapt: CreationOptional<boolean>;
  data: Buffer | null;
  /** The variant of a logo for bright ground. */
  dark: CreationOptional<Buffer | null>;
  state: 'checking' | 'ready' | 'refused';
  problem: Problem | null;
  createdAt: CreationOptional<Date>;
  deletedAt: Date | null;
}

/** What a receiver demands. */
export interface HouseRulesRow extends Model<InferAttributes<HouseRulesRow>, InferCreationAttributes<HouseRulesRow>> {
  id: CreationOptional<string>;
  body: HouseRules;
  createdAt: CreationOptional<Date>;
  deletedAt: CreationOptional<Date | null>;
}

export interface StudioRow extends Model<InferAttributes<StudioRow>, InferCreationAttributes<StudioRow>> {
  id: number;
  details: StudioDetails;
}

export interface Models {
  sets: ModelStatic<SetRow>;
  masters: ModelStatic<MasterRow>;
  presets: ModelStatic<PresetRow>;
  presetVersions: ModelStatic<PresetVersionRow>;
  bundles: ModelStatic<BundleRow>;
  runs: ModelStatic<RunRow>;
  outputs: ModelStatic<OutputRow>;
  studio: ModelStatic<StudioRow>;
  watermarks: ModelStatic<WatermarkRow>;
  houseRules: ModelStatic<HouseRulesRow>;
}

// Functions, since Sequelize writes the column's name into the object it is given.
const id = () => ({ type: DataTypes.UUID, primaryKey: true, defaultValue: DataTypes.UUIDV4 });
const text = () => ({ type: DataTypes.TEXT, allowNull: false });
const whole = () => ({ type: DataTypes.INTEGER, allowNull: false });
const uuid = () => ({ type: DataTypes.UUID, allowNull: false });
const json = DataTypes.JSONB;
const time = DataTypes.DATE;

/** Ties the tables of the migrations to types. */
export function defineModels(sequelize: Sequelize): Models {
  const options = (tableName: string) => ({ tableName, underscored: true, timestamps: false });
  return {
    sets: sequelize.define<SetRow>(
      'set',
      {
        id: id(),
        title: text(),
        createdAt: { type: time, defaultValue: DataTypes.NOW },
        filter: { type: json, defaultValue: {} },
        presetIds: { type: json, defaultValue: [] },
        houseRulesId: DataTypes.UUID,
        archivedAt: time,
        deletedAt: time,
        target: DataTypes.TEXT,
        rights: { type: json, defaultValue: {} },
        place: { type: json, defaultValue: { kind: 'own' } },
        once: { type: json, defaultValue: {} },
      },
      options('sets'),
    ),
    masters: sequelize.define<MasterRow>(
      'master',
      {
        id: id(),
        setId: uuid(),
        position: whole(),
        fileName: text(),
        sha256: DataTypes.TEXT,
        sourcePath: DataTypes.TEXT,
        sourceMtimeMs: DataTypes.DOUBLE,
        bytes: { type: DataTypes.BIGINT, allowNull: false },
        arrival: DataTypes.DOUBLE,
        state: text(),
        facts: json,
        problem: json,
        stars: { ...whole(), defaultValue: 0 },
        starsSet: { type: DataTypes.BOOLEAN, defaultValue: false },
        choice: DataTypes.TEXT,
        tags: { type: json, defaultValue: [] },
        overrides: { type: json, defaultValue: {} },
        removedAt: time,
      },
      options('masters'),
    ),
    presets: sequelize.define<PresetRow>(
      'preset',
      {
        id: id(),
        version: whole(),
        position: whole(),
        groupName: { ...text(), defaultValue: '' },
        favourite: { type: DataTypes.BOOLEAN, defaultValue: false },
        deletedAt: time,
        updatedAt: time,
      },
      options('presets'),
    ),
    presetVersions: sequelize.define<PresetVersionRow>(
      'presetVersion',
      {
        presetId: { ...uuid(), primaryKey: true },
        version: { ...whole(), primaryKey: true },
        body: json,
        madeAt: { type: time, defaultValue: DataTypes.NOW },
      },
      options('preset_versions'),
    ),
    bundles: sequelize.define<BundleRow>(
      'bundle',
      { id: id(), title: text(), presetIds: json, createdAt: { type: time, defaultValue: DataTypes.NOW } },
      options('bundles'),
    ),
    runs: sequelize.define<RunRow>(
      'run',
      {
        id: id(),
        setId: uuid(),
        state: text(),
        presetIds: json,
        startedAt: { type: time, defaultValue: DataTypes.NOW },
        finishedAt: time,
        cancelAskedAt: time,
        studio: json,
        house: json,
        line: { ...whole(), defaultValue: 0 },
        place: { type: json, defaultValue: { kind: 'own' } },
        once: { type: json, defaultValue: {} },
        scope: { type: json, defaultValue: {} },
      },
      options('runs'),
    ),
    outputs: sequelize.define<OutputRow>(
      'output',
      {
        id: id(),
        runId: uuid(),
        masterId: uuid(),
        presetId: uuid(),
        presetVersion: whole(),
        position: whole(),
        state: text(),
        target: text(),
        content: DataTypes.TEXT,
        attempt: { type: DataTypes.BIGINT, defaultValue: 0 },
        folder: text(),
        fileName: text(),
        width: whole(),
        height: whole(),
        expectedBytes: whole(),
        replaces: DataTypes.BOOLEAN,
        bytes: DataTypes.INTEGER,
        quality: DataTypes.INTEGER,
        warnings: json,
        error: json,
        finishedAt: time,
        isNewest: { type: DataTypes.BOOLEAN, defaultValue: false },
        recipe: DataTypes.TEXT,
        engine: DataTypes.INTEGER,
        measures: json,
        expectedMs: { ...whole(), defaultValue: 0 },
        ms: DataTypes.INTEGER,
        madeOf: json,
      },
      options('outputs'),
    ),
    watermarks: sequelize.define<WatermarkRow>(
      'watermark',
      {
        id: id(),
        title: text(),
        kind: text(),
        text: DataTypes.TEXT,
        colour: DataTypes.TEXT,
        typeface: { ...text(), defaultValue: 'sans' },
        edge: { ...text(), defaultValue: 'none' },
        adapt: { type: DataTypes.BOOLEAN, defaultValue: false },
        data: DataTypes.BLOB,
        dark: DataTypes.BLOB,
        state: text(),
        problem: json,
        createdAt: { type: time, defaultValue: DataTypes.NOW },
        deletedAt: time,
      },
      options('watermarks'),
    ),
    houseRules: sequelize.define<HouseRulesRow>(
      'houseRules',
      { id: id(), body: json, createdAt: { type: time, defaultValue: DataTypes.NOW }, deletedAt: time },
      options('house_rules'),
    ),
    studio: sequelize.define<StudioRow>('studio', { id: { ...whole(), primaryKey: true }, details: json }, options('studio')),
  };
}
