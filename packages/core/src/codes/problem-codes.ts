/** What a code stands for, and what whoever meets it can do. */
export interface Meaning {
  means: string;
  toDo: string;
}

/** What is said of pictures, outputs, presets and uploads that did not go as they should. Codes are never given another meaning. */
export const PROBLEM_CODES = {
  // Masters
  empty: { means: 'The file has no content.', toDo: 'Copy it again from where it came.' },
  unreadable: { means: 'The file is no picture that Rundle reads.', toDo: 'Export it as JPEG, TIFF, PNG, WebP or AVIF.' },
  damaged: { means: 'The picture is cut off or broken inside.', toDo: 'Export or copy it again.' },
  'too-large': { means: 'The picture has more pixels than are read.', toDo: 'Export it smaller.' },
  'no-permission': { means: 'The file may not be read.', toDo: 'Allow reading it, then read it again.' },
  missing: { means: 'The file is not where it was.', toDo: 'Put it back, or remove the picture from the set.' },
  'master-changed': { means: 'The file has changed since it was read.', toDo: 'Check the files on the machine again, then run again.' },
  'odd-name': { means: 'The name of the file is not UTF-8.', toDo: 'Rename the file.' },
  'metadata-unread': { means: 'The metadata could not be read.', toDo: 'Read the picture again, or remove all metadata by the preset.' },
  interrupted: { means: 'Work on the picture was cut off too often by other causes.', toDo: 'Try again.' },
  'renderer-crashed': { means: 'The picture ended the program that read it, three times.', toDo: 'Export it again.' },
  twin: { means: 'A file that came is the same as another, byte for byte.', toDo: 'Nothing, or delete one of them.' },
  'left-aside': { means: 'A file of a folder is no picture.', toDo: 'Nothing, where that is as it should be.' },

  // Presets and watermarks
  'preset-not-json': { means: 'A preset file is not JSON.', toDo: 'Correct it where the message says.' },
  'preset-field': { means: 'A field of a preset is wrong or unknown.', toDo: 'Correct the field that is named.' },
  'preset-missing': { means: 'A preset file cannot be read.', toDo: 'Check its path.' },
  'colours-not-kept': {
    means: 'The colours of the master cannot be kept in this type.',
    toDo: 'Choose another type or space in the preset.',
  },
  'no-profile-to-keep': { means: 'The master has no profile that could be kept.', toDo: 'Choose a space in the preset.' },
  'place-would-stay': {
    means: 'An untouched copy would hand over a location that is to be removed.',
    toDo: 'Leave the preset out for this picture, or keep its location.',
  },
  'bundle-field': { means: 'A field of a bundle, studio or decisions file is wrong or unknown.', toDo: 'Correct the field that is named.' },
  'manifest-field': { means: 'A field of a manifest is wrong or unknown.', toDo: 'Take the manifest as it was delivered.' },
  'manifest-missing': { means: 'There is no manifest beside the files.', toDo: 'Name it with --against FILE.' },
  'names-alike': {
    means: 'Names do not tell the files of one picture apart.',
    toDo: 'Add the size, or the row and the column, to the name of the preset.',
  },
  'panel-too-large': { means: 'A panel is larger than the picture.', toDo: 'Choose smaller panels or a larger size, or allow enlarging.' },
  'too-long': { means: 'The output has a longer side than its type can have.', toDo: 'Choose a smaller size or another type.' },
  'type-not-writable': {
    means: 'The programs that write this file type are not on the machine.',
    toDo: 'Install the package that is named, or choose another type.',
  },
  'watermark-field': { means: 'A field of a watermark file is wrong or unknown.', toDo: 'Correct the field that is named.' },
  'watermark-missing': { means: 'The watermark has been deleted.', toDo: 'Choose another in the preset.' },
  'watermark-checking': { means: 'The watermark is still being checked.', toDo: 'Try again in a moment.' },
  'watermark-unreadable': { means: 'The watermark is no PNG or SVG that can be read.', toDo: 'Export it again.' },
  'watermark-large': { means: 'The watermark has too many pixels.', toDo: 'Export it smaller.' },
  'watermark-letters': { means: 'The font has not all letters of the watermark.', toDo: 'Use other letters, or a logo.' },
  'watermark-empty': { means: 'The watermark is only spaces.', toDo: 'Write a text, or use a logo.' },
  'watermark-unsafe': { means: 'The SVG holds scripts or points to other files.', toDo: 'Export it without them.' },

  // Outputs
  exists: { means: 'A file of that name stands there and may not be replaced.', toDo: 'Move it, or let the preset keep both or leave it.' },
  'not-ours': {
    means: 'A file that was to be replaced has been changed by somebody since it was made: it stays.',
    toDo: 'Move it away, or keep it and run again: the output then gets another name.',
  },
  'no-own-folder': {
    means: 'The picture was uploaded, so that it lies in no folder of its own.',
    toDo: 'Choose another place for the files.',
  },
  'not-written': { means: 'The file could not be written.', toDo: 'Do what the message says, then run again.' },
  'over-ceiling': { means: 'The file cannot be made as light as the ceiling asks.', toDo: 'Raise the ceiling, or let the preset shrink.' },
  'check-failed': { means: 'The finished file is not what it should be.', toDo: 'Run again; if it stays so, report it.' },
  'render-failed': { means: 'The output could not be made.', toDo: 'Run again; if it stays so, report it.' },
  'worker-replaced': { means: 'A worker has not answered for minutes.', toDo: 'Nothing: its work is done by another.' },

  // Deliveries
  'file-changed': { means: 'A file has been changed or removed since it was made.', toDo: 'Run the set again, then deliver again.' },
  'mail-too-heavy': { means: 'A file alone is heavier than a message may be.', toDo: 'Send a smaller version, or raise the limit.' },
  'no-picture': { means: 'No file of a picture is of a type that browsers show.', toDo: 'Add a preset that makes JPEG.' },
  'not-reached': { means: 'The receiver cannot be reached, or broke off again and again.', toDo: 'Check the connection, then go on.' },
  'not-trusted': {
    means: 'The receiver’s key or certificate is not the one that is trusted.',
    toDo: 'Ask the receiver, then try the connection anew.',
  },
  'signed-out': { means: 'The receiver does not know the user or the password.', toDo: 'Correct them, then go on.' },
  'receiver-refused': { means: 'The receiver does not take it.', toDo: 'See what it said.' },
  'receiver-gone': { means: 'The receiver has been deleted.', toDo: 'Choose another.' },

  // Uploads
  upload: { means: 'The upload does not follow the protocol.', toDo: 'Send it by tus 1.0.' },
  'upload-failed': { means: 'The server did not answer.', toDo: 'Check that it runs, then bring the file in again.' },
  'too-heavy': { means: 'The file has more bytes than may be brought in.', toDo: 'Export it lighter, or bring it in from a folder.' },
  'longer-than-announced': { means: 'More bytes came than were announced.', toDo: 'Bring the file in again.' },
  'disk-full': { means: 'The disk of the server is full.', toDo: 'Make room, then bring the file in again.' },
  'not-stored-yet': { means: 'The file has come in and could not be taken over yet.', toDo: 'Nothing: it is tried again.' },

  // The command line
  usage: { means: 'The command is not understood.', toDo: 'See the usage that is printed below it.' },

  // Fields of requests
  field: { means: 'A field of the request is wrong or unknown.', toDo: 'Correct the field that is named.' },
} as const satisfies Record<string, Meaning>;

/** What requests to the server end with, beside the codes above, and the HTTP status of each (RFC 9110, 15). */
export const REQUEST_CODES = {
  'no-room': { status: 507, means: 'The disk has no room for what the run would write.', toDo: 'Make room, or choose another place.' },
  'no-place': {
    status: 403,
    means: 'The run may not write where its files are to go.',
    toDo: 'Choose another place, or add one by RUNDLE_WRITE_ROOTS.',
  },
  invalid: { status: 400, means: 'The request is not right.', toDo: 'Correct the fields that are named.' },
  'bad-request': { status: 400, means: 'The request is not understood.', toDo: 'Correct it.' },
  'no-token': { status: 401, means: 'The call is for whoever knows its token.', toDo: 'Send the token.' },
  'cross-site': { status: 403, means: 'Another web site may not change anything.', toDo: 'Use the pages of this server.' },
  outside: { status: 403, means: 'The folder is not below those that may be used.', toDo: 'Choose another, or add one by RUNDLE_ROOTS.' },
  'not-found': { status: 404, means: 'There is no such thing (any more).', toDo: 'Load the list anew.' },
  'no-folder': { status: 404, means: 'There is no such folder (any more), or it may not be read.', toDo: 'Choose another.' },
  'no-download': { status: 405, means: 'Uploads cannot be fetched.', toDo: 'Fetch the picture of the master.' },
  'no-options': { status: 405, means: 'Uploads are for the pages of this server.', toDo: 'Nothing.' },
  'too-slow': { status: 408, means: 'The request did not come in whole in time.', toDo: 'Send it again.' },
  'run-under-way': { status: 409, means: 'A run of the set is under way.', toDo: 'Wait for its end, or cancel it.' },
  'backup-under-way': { status: 409, means: 'A backup is being made.', toDo: 'Wait for its end.' },
  'still-arriving': { status: 409, means: 'Pictures of the set are still being read.', toDo: 'Try again in a moment.' },
  'nothing-to-do': { status: 409, means: 'The presets apply to none of the pictures.', toDo: 'Choose other presets.' },
  'files-alike': {
    status: 409,
    means: 'A preset makes several files of each picture, and its names do not tell them apart.',
    toDo: 'Add the size, or the row and the column, to its name.',
  },
  'place-asked': {
    status: 409,
    means: 'A preset wants to be told where its files go.',
    toDo: 'Say so under Plan, or choose another place in the preset.',
  },
  'in-the-way': {
    status: 409,
    means: 'Files of others are in the way, and the preset stops at them.',
    toDo: 'Move them away, or choose keep both, replace or leave in the preset.',
  },
  'nothing-there': { status: 409, means: 'The set has no outputs yet.', toDo: 'Run it first.' },
  'output-missing': { status: 409, means: 'An output is no longer in its folder.', toDo: 'Run the set again.' },
  'not-whole': { status: 409, means: 'The upload has not come in whole.', toDo: 'Send the rest first.' },
  'changed-meanwhile': {
    status: 412,
    means: 'Somebody else has saved another version meanwhile.',
    toDo: 'Save yours as new, or load the newer version.',
  },
  'foreign-host': { status: 421, means: 'The server answers on its own machine only.', toDo: 'Open it as http://127.0.0.1.' },
  'too-many': { status: 422, means: 'The folder holds too many files.', toDo: 'Bring its sub-folders in one by one.' },
  'no-sample': {
    status: 422,
    means: 'The preset cannot be carried out on this picture.',
    toDo: 'See the sentence: a run would end with it, too.',
  },
  'no-feed': {
    status: 422,
    means: 'The stand-in feed does not run, or has no feed of that name.',
    toDo: 'Look at its page; it is started with Rundle unless RUNDLE_STAND_INS=off.',
  },
  'feed-refused': {
    status: 422,
    means: 'The feed does not take the file.',
    toDo: 'See the sentence: another file type, or a lighter file.',
  },
  'no-delivery': { status: 422, means: 'It cannot be delivered so.', toDo: 'See the sentence.' },
  'delivery-over': { status: 409, means: 'The delivery is over, or not as far as that.', toDo: 'Load the list anew.' },
  internal: { status: 500, means: 'A fault of Rundle.', toDo: 'Try again; the log of the server says more.' },
  'database-away': { status: 503, means: 'The database does not answer.', toDo: 'Wait: it is tried again, and nothing is lost.' },
} as const satisfies Record<string, Meaning & { status: number }>;

export type RequestCode = keyof typeof REQUEST_CODES;

export type ProblemCode = keyof typeof PROBLEM_CODES | RequestCode;
