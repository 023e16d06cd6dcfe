// Processors that hear nothing for so long that nothing is left in them are not computed.

/** Whether a channel's frames, so many bytes of them, are all nothing. */
export function quietOne(at: usize, bytes: usize): bool {
  // What sounds is mostly told by its first frames.
  const bits = i32x4.splat(0x7fffffff);
  let any = v128.load(at);
  if (v128.any_true(v128.and(any, bits))) return false;
  for (let i: usize = 16; i < bytes; i += 16) any = v128.or(any, v128.load(at + i));
  return !v128.any_true(v128.and(any, bits));
}
/** The same of a buffer of one channel or two. */
export function quiet(buffer: usize, channels: i32, bytes: usize): bool {
  return quietOne(buffer, bytes) && (channels == 1 || quietOne(buffer + 512, bytes));
}
