import { DataTypes, Model, type ModelStatic } from 'sequelize';

/** Every row that people share belongs to a shop. */
export abstract class Owned extends Model {
  declare id: string;
  declare shopId: string;
  declare createdAt: Date;
}

/** How a noun says what its rows are: model, table, columns, and whether a row keeps when it was made. */
export type Define = (
  model: ModelStatic<Model>,
  tableName: string,
  attributes: Parameters<typeof Model.init>[0],
  createdAt?: boolean,
) => void;

export const hash = { type: DataTypes.CHAR(64), primaryKey: true };
export const id = { type: DataTypes.CHAR(36), primaryKey: true };
export const shopId = { type: DataTypes.CHAR(36), allowNull: false };
export const uuid = { type: DataTypes.CHAR(36), allowNull: false };
export const json = { type: DataTypes.JSON, allowNull: false };
export const text = (n: number) => ({ type: DataTypes.STRING(n), allowNull: false });
export const rev = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
export const count = { type: DataTypes.BIGINT, allowNull: false, defaultValue: 0 };
export const countOrNull = { type: DataTypes.BIGINT };
export const flag = { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false };
export const time = { type: DataTypes.DATE(3), allowNull: false };
/** Of a row that was brought in from an archive: by whom and when. */
export const imported = { importedBy: { type: DataTypes.STRING(120) }, importedAt: { type: DataTypes.DATE(3) } };
