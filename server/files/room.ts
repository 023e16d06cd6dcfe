import { statfs } from 'node:fs/promises';

/** Bytes that stay free on the disk: the database needs room to write what it has accepted. */
export const RESERVE = 256 * 2 ** 20;

/** There is no room for something; it may be sent again when there is. */
export class NoRoom extends Error {
  constructor(what = 'The disk is full') {
    super(`${what}. Nothing was lost: make room, and it goes on by itself.`);
  }
}

/** Bytes that a program may still write where this folder is. */
export async function freeBytes(folder: string): Promise<number> {
  const { bavail, bsize } = await statfs(folder);
  return bavail * bsize;
}

/** Bytes that are left free by edits: the database writes its log in pieces of 16 MiB (PostgreSQL 15, 30.5). */
export const EDIT_RESERVE = 48 * 2 ** 20;

/** @throws NoRoom where so many bytes more would leave too few free */
export async function checkRoom(folder: string, bytes = 0, reserve = RESERVE): Promise<void> {
  if ((await freeBytes(folder)) - bytes < reserve) throw new NoRoom();
}
