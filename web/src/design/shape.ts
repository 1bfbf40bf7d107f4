// The shape of the documents that this build reads and writes: a format may gain fields without a new number.
declare const DOCUMENT_SHAPE: string;

/** Tells kept work of this build from that of an earlier one, which the server brings up to the present shape. */
export const shapeOf = (format: string): string => `${format} ${DOCUMENT_SHAPE}`;
