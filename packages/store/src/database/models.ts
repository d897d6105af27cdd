import { DataTypes, type ModelStatic, type Sequelize } from 'sequelize';
import type {
  BundleRow,
  DeliveryFileRow,
  DeliveryRow,
  HouseRulesRow,
  MasterRow,
  OutputRow,
  PresetRow,
  PresetVersionRow,
  ReceiverRow,
  RunRow,
  SetRow,
  StandingOrderFileRow,
  StandingOrderRow,
  StudioRow,
  WatermarkRow,
} from './rows';

export interface Models {
  sets: ModelStatic<SetRow>;
  masters: ModelStatic<MasterRow>;
  presets: ModelStatic<PresetRow>;
  presetVersions: ModelStatic<PresetVersionRow>;
  bundles: ModelStatic<BundleRow>;
  runs: ModelStatic<RunRow>;
  standingOrders: ModelStatic<StandingOrderRow>;
  standingOrderFiles: ModelStatic<StandingOrderFileRow>;
  outputs: ModelStatic<OutputRow>;
  studio: ModelStatic<StudioRow>;
  watermarks: ModelStatic<WatermarkRow>;
  houseRules: ModelStatic<HouseRulesRow>;
  receivers: ModelStatic<ReceiverRow>;
  deliveries: ModelStatic<DeliveryRow>;
  deliveryFiles: ModelStatic<DeliveryFileRow>;
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
        secondLooks: { type: json, defaultValue: [] },
        remakeBy: DataTypes.INTEGER,
        copies: DataTypes.TEXT,
        keepsEarlier: { type: DataTypes.BOOLEAN, defaultValue: false },
        standingOrderId: DataTypes.UUID,
        standingDay: DataTypes.DATEONLY,
        revision: { ...whole(), defaultValue: 0 },
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
        revision: { ...whole(), defaultValue: 0 },
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
    standingOrders: sequelize.define<StandingOrderRow>(
      'standingOrder',
      {
        id: id(),
        title: text(),
        folder: text(),
        deeper: DataTypes.BOOLEAN,
        presetIds: json,
        place: json,
        isOn: { type: DataTypes.BOOLEAN, defaultValue: true },
        problem: json,
        createdAt: { type: time, defaultValue: DataTypes.NOW },
        deletedAt: time,
      },
      options('standing_orders'),
    ),
    standingOrderFiles: sequelize.define<StandingOrderFileRow>(
      'standingOrderFile',
      {
        id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
        orderId: uuid(),
        path: text(),
        bytes: { type: DataTypes.BIGINT, allowNull: false },
        mtimeMs: { type: DataTypes.DOUBLE, allowNull: false },
        sha256: DataTypes.TEXT,
        fate: text(),
        masterId: DataTypes.UUID,
        problem: json,
        seenAt: { type: time, defaultValue: DataTypes.NOW },
        settledAt: time,
      },
      options('standing_order_files'),
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
        guessedBytes: DataTypes.INTEGER,
        replaces: DataTypes.BOOLEAN,
        bytes: DataTypes.INTEGER,
        quality: DataTypes.INTEGER,
        warnings: json,
        error: json,
        finishedAt: time,
        isNewest: { type: DataTypes.BOOLEAN, defaultValue: false },
        part: { ...text(), defaultValue: '' },
        isCurrent: { type: DataTypes.BOOLEAN, defaultValue: false },
        mark: DataTypes.TEXT,
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
    receivers: sequelize.define<ReceiverRow>(
      'receiver',
      {
        id: id(),
        body: json,
        secret: DataTypes.BLOB,
        standIn: { type: DataTypes.BOOLEAN, defaultValue: false },
        createdAt: { type: time, defaultValue: DataTypes.NOW },
        deletedAt: time,
      },
      options('receivers'),
    ),
    deliveries: sequelize.define<DeliveryRow>(
      'delivery',
      {
        id: id(),
        setId: uuid(),
        wish: json,
        receiver: text(),
        place: DataTypes.TEXT,
        state: text(),
        house: json,
        decision: DataTypes.TEXT,
        findings: { type: json, defaultValue: [] },
        messages: { type: json, defaultValue: [] },
        checked: { ...whole(), defaultValue: 0 },
        removed: { ...whole(), defaultValue: 0 },
        problem: json,
        log: { type: json, defaultValue: [] },
        createdAt: { type: time, defaultValue: DataTypes.NOW },
        finishedAt: time,
        cancelAskedAt: time,
      },
      options('deliveries'),
    ),
    deliveryFiles: sequelize.define<DeliveryFileRow>(
      'deliveryFile',
      {
        deliveryId: { ...uuid(), primaryKey: true },
        path: { ...text(), primaryKey: true },
        position: whole(),
        outputId: DataTypes.UUID,
        target: DataTypes.TEXT,
        folder: DataTypes.TEXT,
        fileName: DataTypes.TEXT,
        bytes: { type: DataTypes.BIGINT, allowNull: false },
        sha256: text(),
        state: { ...text(), defaultValue: 'waiting' },
        problem: json,
      },
      options('delivery_files'),
    ),
    studio: sequelize.define<StudioRow>('studio', { id: { ...whole(), primaryKey: true }, details: json }, options('studio')),
  };
}
