import { type DestinationStream, type Logger, pino } from 'pino';

/** Fields of errors that tell what they are; all others may hold a statement, what it was asked with, or what a receiver was told. */
const TOLD = ['code', 'errno', 'syscall', 'path', 'status', 'signal', 'routine', 'constraint', 'table'] as const;
/** How deep causes are told. */
const DEEPEST = 4;

/**
 * The log of a program: lines of JSON. Of errors only what they are is told, never a statement of SQL with its parameters.
 * @param destination standard output unless a test listens
 */
export const openLog = (name: string, level: string, destination?: DestinationStream): Logger => {
  const options = { level, name, serializers: { err: (error: unknown) => tellError(error) } };
  return destination ? pino(options, destination) : pino(options);
};

function tellError(error: unknown, depth = 0): unknown {
  if (!(error instanceof Error)) return typeof error === 'object' ? { type: 'object' } : error;
  const { name, message, stack } = error;
  const fields = Object.fromEntries(
    TOLD.flatMap((field) => (field in error ? [[field, (error as unknown as Record<string, unknown>)[field]]] : [])),
  );
  const cause = 'parent' in error && error.parent !== error ? error.parent : error.cause;
  return { type: name, message, stack, ...fields, ...(cause && depth < DEEPEST ? { cause: tellError(cause, depth + 1) } : {}) };
}
