import { changesFor, type DeliveryPreview, galleryPaths, HouseRules, isUntold, MANIFEST_NAME, NewDelivery, visitBytes } from '@rundle/core';
import {
  type DeliveryFileRow,
  type DeliveryRow,
  deliveredTo,
  galleryPictures,
  mailParts,
  notifyTopic,
  type Outgoing,
  outgoingFiles,
  placeOf,
  receiverWords,
} from '@rundle/store';
import { type CreationAttributes, Op, type Transaction } from 'sequelize';
import { asMade, type StandingOutput } from '../hand-over/standing-outputs';
import { requestProblem } from '../http/problem';
import { findReceiver } from '../receivers/stored';
import type { Stores } from '../services';
import { findSet } from '../sets/find';

/** Windows of a telephone and of a desk, by which a visit of a gallery is reckoned. */
const PHONE = { windowWidth: 360, density: 2 };
const DESKTOP = { windowWidth: 1440, density: 1 };

/** What a delivery would send; writes nothing. */
export async function previewDelivery(
  { database, files }: Stores,
  setId: string,
  wish: NewDelivery,
  outputs: readonly StandingOutput[],
): Promise<DeliveryPreview> {
  const set = await findSet(database, setId);
  const all = outgoingFiles(outputs, wish);
  const stand = new Set(asMade(outputs).map(({ id }) => id));
  const outgoing = all.filter(({ output }) => stand.has(output.id));
  const bytes = outgoing.reduce((sum, { output }) => sum + (output.bytes ?? 0), 0);
  const place = placeOf(wish.way);
  const wanted = outgoing.map(({ path, output }) => ({ path, sha256: output.content ?? '' }));
  const there = place === null ? [] : await deliveredTo(database, place);
  const { keep, old } = changesFor(wanted, there);
  const { gallery } = wish;
  const pictures = gallery ? await galleryPictures(database, outgoing, new Map()) : [];
  const names = new Map(outgoing.map(({ output }) => [output.masterId, output.masterName]));
  const untold = pictures.filter(({ id, text }) => isUntold(text) && !gallery?.texts[id]);
  const messages =
    wish.way.kind === 'mail'
      ? (
          await mailParts(
            database,
            set,
            wish,
            outgoing.map(({ path, output }) => ({ path, bytes: output.bytes ?? 0 })),
          )
        ).messages.length
      : null;
  // What is made for the delivery takes the place of what was made for the one before.
  const made = [...(gallery ? galleryPaths(gallery) : []), ...(wish.content.manifest ? [MANIFEST_NAME] : [])];
  const problem =
    outgoing.length === 0
      ? {
          code: 'nothing-there' as const,
          message: gallery ? 'None of these files can be shown by browsers: add a preset that makes JPEG.' : 'No files fit what is chosen.',
        }
      : wish.way.kind === 'folder'
        ? await files.outputs.refusal(wish.way.path)
        : null;
  return {
    files: outgoing.length,
    made: made.length,
    bytes,
    left: all.filter(({ output }) => !stand.has(output.id)).map(({ path }) => path),
    unchanged: keep.length,
    old: old.filter((path) => !made.includes(path)),
    visits: gallery && { phone: visitBytes(gallery, pictures, PHONE), desktop: visitBytes(gallery, pictures, DESKTOP) },
    untold: untold.map(({ id }) => ({ masterId: id, fileName: names.get(id) ?? '' })),
    messages,
    problem,
  };
}

/**
 * Writes a delivery down with what stands there now; it is carried out elsewhere.
 * @param outputs of the set, as their files lie on the disk now
 * @throws HttpProblem
 */
export async function startDelivery(
  { database, files }: Stores,
  setId: string,
  wish: NewDelivery,
  outputs: readonly StandingOutput[],
): Promise<DeliveryRow> {
  const { sequelize, deliveries, deliveryFiles, houseRules } = database;
  const set = await findSet(database, setId);
  const { way } = wish;
  // What is not as it was made is listed, too: the check finds it, and says why it does not go.
  const outgoing = outgoingFiles(outputs, wish);
  if (outgoingFiles(asMade(outputs), wish).length === 0) throw nothingThere();
  if (way.kind === 'folder') {
    const refusal = await files.outputs.refusal(way.path);
    if (refusal) throw requestProblem('no-place', refusal.message, [refusal]);
  }
  const receiver = 'receiverId' in way && way.receiverId !== null ? (await findReceiver(database, way.receiverId)).body : null;
  if (receiver && (receiver.kind === 'smtp') !== (way.kind === 'mail'))
    throw requestProblem('no-delivery', `${receiver.title} ${receiver.kind === 'smtp' ? 'takes mail only' : 'takes no mail'}.`);
  const house = set.houseRulesId ? await houseRules.findByPk(set.houseRulesId) : null;
  return sequelize.transaction(async (transaction) => {
    const row = await deliveries.create(
      {
        setId,
        wish,
        receiver: receiverWords(way, receiver),
        place: placeOf(way),
        state: 'checking',
        house: house && HouseRules.parse(house.body),
      },
      { transaction },
    );
    await deliveryFiles.bulkCreate(listed(row.id, outgoing), { transaction });
    await notifyTopic(sequelize, 'deliveries', transaction);
    return row;
  });
}

const nothingThere = () => requestProblem('nothing-there', 'There are no files to deliver. Run the set first, or choose other presets.');

const listed = (deliveryId: string, outgoing: readonly Outgoing[]): CreationAttributes<DeliveryFileRow>[] =>
  outgoing.map(({ path, output: { id, target, folder, fileName, bytes, content } }, position) => ({
    deliveryId,
    path,
    position,
    outputId: id,
    target,
    folder,
    fileName,
    bytes: bytes ?? 0,
    sha256: content ?? '',
  }));

/**
 * Lists the files of a delivery anew, as they stand now: what has gone and is still the same need not go again.
 * @throws HttpProblem when nothing of it is there any more
 */
export async function listAnew(
  { database }: Stores,
  delivery: DeliveryRow,
  outputs: readonly StandingOutput[],
  transaction: Transaction,
): Promise<void> {
  const { deliveryFiles } = database;
  const wish = NewDelivery.parse(delivery.wish);
  if (outgoingFiles(asMade(outputs), wish).length === 0) throw nothingThere();
  const outgoing = outgoingFiles(outputs, wish);
  // What was decided about rules that files break was about those of before.
  await delivery.update({ decision: null }, { transaction });
  const before = await deliveryFiles.findAll({ where: { deliveryId: delivery.id, outputId: { [Op.ne]: null } }, transaction });
  const same = new Set(before.map(({ path, sha256 }) => `${sha256} ${path}`));
  const now = listed(delivery.id, outgoing);
  const paths = new Set(now.map(({ path }) => path));
  const gone = before.filter(({ path }) => !paths.has(path)).map(({ path }) => path);
  await deliveryFiles.destroy({ where: { deliveryId: delivery.id, path: gone }, transaction });
  const changed = now
    .filter(({ path, sha256 }) => !same.has(`${sha256} ${path}`))
    .map((row) => ({ ...row, state: 'waiting' as const, problem: null }));
  await deliveryFiles.bulkCreate(changed, {
    updateOnDuplicate: ['position', 'outputId', 'target', 'folder', 'fileName', 'bytes', 'sha256', 'state', 'problem'],
    transaction,
  });
}
