import type { Depth } from '../../core/formats/audio/samples';
import {
  DataTypes,
  Model,
  type InferAttributes,
  type InferCreationAttributes,
  type CreationOptional,
  type Sequelize,
} from 'sequelize';
import type { Role } from '../../core/base/role';
import type { Command } from '../../core/edits/commands';
import type { Spans } from '../../core/metering/spans';
import type { Session } from '../../core/session/types';
import type { ChangeKind } from '../../core/edits/history';

export class SessionRow extends Model<InferAttributes<SessionRow>, InferCreationAttributes<SessionRow>> {
  declare id: CreationOptional<string>;
  declare name: string;
  declare revision: CreationOptional<number>;
  declare openedAt: CreationOptional<Date>;
  declare createdAt: CreationOptional<Date>;
  declare updatedAt: CreationOptional<Date>;
}

/** Append-only: what was done to a session, and what takes it back. */
export class ChangeRow extends Model<InferAttributes<ChangeRow>, InferCreationAttributes<ChangeRow>> {
  declare id: CreationOptional<number>;
  declare sessionId: string;
  declare revision: number;
  declare kind: ChangeKind;
  declare label: string;
  /** Given by the window that made the change, so that a change sent twice is kept once. */
  declare changeId: string;
  /** The edit that an undo takes back, or a redo does again, by its `changeId`. */
  declare ofChange: CreationOptional<string | null>;
  /** Null where the change names an edit: what it does follows from that one. */
  declare commands: readonly Command[] | null;
  declare inverse: readonly Command[] | null;
  declare createdAt: CreationOptional<Date>;
}

export class StemRow extends Model<InferAttributes<StemRow>, InferCreationAttributes<StemRow>> {
  declare id: CreationOptional<number>;
  declare sha256: string;
  declare channels: number;
  declare sampleRate: number;
  declare frames: number;
  /** How its samples are kept. */
  declare depth: CreationOptional<Depth>;
  /** Bytes of each of its parts but the last. */
  declare partBytes: CreationOptional<number>;
  /** When it begins, in seconds since midnight; null where its file did not tell. */
  declare begins: CreationOptional<number | null>;
  /** Highest peak of each hundredth of a second, 0..255. */
  declare overview: Buffer;
  /** Where it sounds, above -60 dBFS; null where that was not looked for yet. */
  declare spans: CreationOptional<Spans | null>;
  /** Its samples were found not to be those that were stored: it is stored anew when its file comes in again. */
  declare damaged: CreationOptional<boolean>;
  /** When it was last brought in, or met again by something that brings it in. */
  declare usedAt: CreationOptional<Date>;
  declare createdAt: CreationOptional<Date>;
}

export class StemChunkRow extends Model<
  InferAttributes<StemChunkRow>,
  InferCreationAttributes<StemChunkRow>
> {
  declare stemId: number;
  declare index: number;
  /** Interleaved samples as its stem keeps them, `partBytes` of them but in the last. A part that is silent has no row. */
  declare data: Buffer;
}

export class SurfaceProfileRow extends Model<
  InferAttributes<SurfaceProfileRow>,
  InferCreationAttributes<SurfaceProfileRow>
> {
  declare id: string;
  declare name: string;
  declare profile: unknown;
}

/** A desk of the studio: its units, and how they work together. */
export class DeskRow extends Model<InferAttributes<DeskRow>, InferCreationAttributes<DeskRow>> {
  declare id: string;
  declare name: string;
  declare desk: unknown;
}

/** What a part of the server is set to in the page. */
export class SettingRow extends Model<InferAttributes<SettingRow>, InferCreationAttributes<SettingRow>> {
  declare name: string;
  declare value: unknown;
}

/** Another machine that was let in. */
export class DeviceRow extends Model<InferAttributes<DeviceRow>, InferCreationAttributes<DeviceRow>> {
  declare id: string;
  declare name: string;
  declare role: Role;
  /** Of a controller that speaks OSC: the address that it speaks from. A page is known by its cookie. */
  declare address: string | null;
  declare seenAt: CreationOptional<Date>;
  declare createdAt: CreationOptional<Date>;
}

export class PresetRow extends Model<InferAttributes<PresetRow>, InferCreationAttributes<PresetRow>> {
  declare id: CreationOptional<string>;
  declare name: string;
  declare kind: string;
  declare settings: unknown;
}

export class VersionRow extends Model<InferAttributes<VersionRow>, InferCreationAttributes<VersionRow>> {
  declare id: CreationOptional<string>;
  declare sessionId: string;
  declare name: string;
  declare document: Session;
  declare createdAt: CreationOptional<Date>;
}

/** Binds the models to a connection. The tables themselves are made by the migrations. */
export function defineModels(sequelize: Sequelize): void {
  const uuid = { type: DataTypes.UUID, primaryKey: true, defaultValue: DataTypes.UUIDV4 };
  const common = { sequelize, underscored: true } as const;
  SessionRow.init(
    {
      id: uuid,
      name: { type: DataTypes.TEXT, allowNull: false },
      revision: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
      openedAt: { type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW },
      createdAt: DataTypes.DATE,
      updatedAt: DataTypes.DATE,
    },
    { ...common, tableName: 'sessions' },
  );
  ChangeRow.init(
    {
      id: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true },
      sessionId: { type: DataTypes.UUID, allowNull: false },
      revision: { type: DataTypes.INTEGER, allowNull: false },
      kind: { type: DataTypes.TEXT, allowNull: false },
      label: { type: DataTypes.TEXT, allowNull: false },
      changeId: { type: DataTypes.UUID, allowNull: false },
      ofChange: { type: DataTypes.UUID, allowNull: true, defaultValue: null },
      commands: { type: DataTypes.JSON, allowNull: true },
      inverse: { type: DataTypes.JSON, allowNull: true },
      createdAt: DataTypes.DATE,
    },
    { ...common, tableName: 'session_changes', updatedAt: false },
  );
  StemRow.init(
    {
      id: { type: DataTypes.INTEGER, primaryKey: true, autoIncrement: true },
      sha256: { type: DataTypes.CHAR(64), allowNull: false },
      channels: { type: DataTypes.SMALLINT, allowNull: false },
      sampleRate: { type: DataTypes.INTEGER, allowNull: false },
      frames: { type: DataTypes.INTEGER, allowNull: false },
      depth: { type: DataTypes.TEXT, allowNull: false, defaultValue: 'f32' },
      partBytes: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1048576 },
      begins: { type: DataTypes.DOUBLE, allowNull: true, defaultValue: null },
      overview: { type: DataTypes.BLOB, allowNull: false },
      spans: { type: DataTypes.JSON, allowNull: true, defaultValue: null },
      damaged: { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false },
      usedAt: { type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW },
      createdAt: DataTypes.DATE,
    },
    { ...common, tableName: 'stems', updatedAt: false },
  );
  StemChunkRow.init(
    {
      stemId: { type: DataTypes.INTEGER, primaryKey: true },
      index: { type: DataTypes.INTEGER, primaryKey: true },
      data: { type: DataTypes.BLOB, allowNull: false },
    },
    { ...common, tableName: 'stem_chunks', timestamps: false },
  );
  SurfaceProfileRow.init(
    {
      id: { type: DataTypes.TEXT, primaryKey: true },
      name: { type: DataTypes.TEXT, allowNull: false },
      profile: { type: DataTypes.JSONB, allowNull: false },
    },
    { ...common, tableName: 'surface_profiles' },
  );
  DeskRow.init(
    {
      id: { type: DataTypes.TEXT, primaryKey: true },
      name: { type: DataTypes.TEXT, allowNull: false },
      desk: { type: DataTypes.JSONB, allowNull: false },
    },
    { ...common, tableName: 'desks' },
  );
  SettingRow.init(
    {
      name: { type: DataTypes.TEXT, primaryKey: true },
      value: { type: DataTypes.JSONB, allowNull: false },
    },
    { ...common, tableName: 'settings' },
  );
  DeviceRow.init(
    {
      id: { type: DataTypes.UUID, primaryKey: true },
      name: { type: DataTypes.TEXT, allowNull: false },
      role: { type: DataTypes.TEXT, allowNull: false },
      address: { type: DataTypes.TEXT, allowNull: true },
      seenAt: { type: DataTypes.DATE, allowNull: false, defaultValue: DataTypes.NOW },
      createdAt: DataTypes.DATE,
    },
    { ...common, tableName: 'devices' },
  );
  PresetRow.init(
    {
      id: uuid,
      name: { type: DataTypes.TEXT, allowNull: false },
      kind: { type: DataTypes.TEXT, allowNull: false },
      settings: { type: DataTypes.JSONB, allowNull: false },
    },
    { ...common, tableName: 'presets' },
  );
  VersionRow.init(
    {
      id: uuid,
      sessionId: { type: DataTypes.UUID, allowNull: false },
      name: { type: DataTypes.TEXT, allowNull: false },
      document: { type: DataTypes.JSONB, allowNull: false },
      createdAt: DataTypes.DATE,
    },
    { ...common, tableName: 'versions', updatedAt: false },
  );
}
