import type {
  Choice,
  DELIVERED_STATES,
  DeliveryState,
  FileFate,
  FileFinding,
  Filter,
  Finding,
  HouseRules,
  MasterFacts,
  MailMessage,
  Measures,
  NewDelivery,
  OutputState,
  Preset,
  Problem,
  Receiver,
  SecondLook,
  StudioDetails,
  OnceByPreset,
  Decisions,
  Place,
  MarkEdge,
  Typeface,
} from '@rundle/core';
import type { CreationOptional, InferAttributes, InferCreationAttributes, Model } from 'sequelize';

/*
 * The rows of the tables. What goes with which state, the constraints of the migrations say as well.
 */

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
  secondLooks: CreationOptional<SecondLook[]>;
  /** Number of the engine by which everything that an earlier one made is to be made again; null, and any other than today's: it stays. */
  remakeBy: CreationOptional<number | null>;
  /** Whether files of an earlier name or place stay where they are. */
  keepsEarlier: CreationOptional<boolean>;
  /** What becomes of copies that were made before files gave way to their newer selves; null: nobody has been asked. */
  copies: CreationOptional<'go' | 'stay' | null>;
  /** The standing order whose pictures of one day it holds; null: people made it. */
  standingOrderId: CreationOptional<string | null>;
  /** That day, 2026-05-14. */
  standingDay: CreationOptional<string | null>;
  /** How often it has been changed; the database counts. */
  revision: CreationOptional<number>;
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
  overrides: CreationOptional<Partial<Decisions>>;
  /** When it went to the bin; null: it is in the set. */
  removedAt: CreationOptional<Date | null>;
  /** How often it has been changed; the database counts. */
  revision: CreationOptional<number>;
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
  pairs?: { masterId: string; presetId: string; part?: string | undefined }[];
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
  /** The same by its picture alone; null for what an earlier release planned: it guessed no otherwise. */
  guessedBytes: CreationOptional<number | null>;
  replaces: boolean;
  bytes: number | null;
  quality: number | null;
  warnings: Finding[];
  error: Problem | null;
  finishedAt: Date | null;
  /** Whether it is the newest that is done of all that were made at its place: the file that stands there is its own. */
  isNewest: CreationOptional<boolean>;
  /** Which of several files that a preset makes of its picture it is; empty: the only one. */
  part: CreationOptional<string>;
  /** Whether it is what stands for its picture, preset and part now: the last that was made of it, as long as its file is its own. */
  isCurrent: CreationOptional<boolean>;
  /** By which its file is known to be unchanged: {@link Outputs.commit}; null: not known, its content tells. */
  mark: CreationOptional<string | null>;
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

/** A folder that is watched. */
export interface StandingOrderRow extends Model<InferAttributes<StandingOrderRow>, InferCreationAttributes<StandingOrderRow>> {
  id: CreationOptional<string>;
  title: string;
  /** Its true path. */
  folder: string;
  deeper: boolean;
  presetIds: string[];
  place: Place;
  isOn: CreationOptional<boolean>;
  /** Why it can do nothing at present. */
  problem: CreationOptional<Problem | null>;
  createdAt: CreationOptional<Date>;
  deletedAt: CreationOptional<Date | null>;
}

/** A file of a watched folder that has come to rest. */
export interface StandingOrderFileRow extends Model<InferAttributes<StandingOrderFileRow>, InferCreationAttributes<StandingOrderFileRow>> {
  id: CreationOptional<number | string>;
  orderId: string;
  path: string;
  /** BIGINT comes from the driver as text. */
  bytes: number | string;
  mtimeMs: number;
  /** Null: it was never read to its end. */
  sha256: string | null;
  fate: FileFate;
  masterId: CreationOptional<string | null>;
  problem: CreationOptional<Problem | null>;
  seenAt: CreationOptional<Date>;
  /** When the run was started that covers it, or it was found that none can; null: that is still to be done. */
  settledAt: CreationOptional<Date | null>;
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

/** Somebody who is sent pictures. */
export interface ReceiverRow extends Model<InferAttributes<ReceiverRow>, InferCreationAttributes<ReceiverRow>> {
  id: CreationOptional<string>;
  body: Receiver;
  /** Encrypted; see the server's receivers/secrets.ts. */
  secret: CreationOptional<Buffer | null>;
  standIn: CreationOptional<boolean>;
  createdAt: CreationOptional<Date>;
  deletedAt: CreationOptional<Date | null>;
}

export interface DeliveryRow extends Model<InferAttributes<DeliveryRow>, InferCreationAttributes<DeliveryRow>> {
  id: CreationOptional<string>;
  setId: string;
  wish: NewDelivery;
  /** Who or where it goes to, in words as they were then. */
  receiver: string;
  /** Under which what lies at the receiver is on record; null: nothing lies anywhere. */
  place: string | null;
  state: DeliveryState;
  /** What the receiver of the set demanded then. */
  house: CreationOptional<HouseRules | null>;
  /** What was decided about files that break a rule. */
  decision: CreationOptional<'all' | 'without' | null>;
  findings: CreationOptional<FileFinding[]>;
  messages: CreationOptional<MailMessage[]>;
  /** Files that have been opened and checked, while that goes on. */
  checked: CreationOptional<number>;
  removed: CreationOptional<number>;
  problem: CreationOptional<Problem | null>;
  log: CreationOptional<{ at: string; text: string }[]>;
  createdAt: CreationOptional<Date>;
  finishedAt: CreationOptional<Date | null>;
  cancelAskedAt: CreationOptional<Date | null>;
}

/** A file of a delivery: an output as it stood when it was begun, or a file that was made for the delivery. */
export interface DeliveryFileRow extends Model<InferAttributes<DeliveryFileRow>, InferCreationAttributes<DeliveryFileRow>> {
  deliveryId: string;
  /** Where it lies in the delivery, `/` between levels. */
  path: string;
  position: number;
  /** Null: made for the delivery, it lies in its own folder. */
  outputId: string | null;
  target: string | null;
  folder: string | null;
  fileName: string | null;
  /** BIGINT comes from the driver as text. */
  bytes: number | string;
  sha256: string;
  state: CreationOptional<(typeof DELIVERED_STATES)[number]>;
  problem: CreationOptional<Problem | null>;
}
