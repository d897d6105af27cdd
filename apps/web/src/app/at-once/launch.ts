/** What the Launch Handler API (WICG) gives an installed application that files are opened with. */
interface LaunchQueue {
  setConsumer(consumer: (launch: { files?: readonly FileSystemFileHandle[] }) => void): void;
}

/** Calls back with the files that the file manager opened the application with; where browsers cannot do that, never. */
export function whenLaunched(onFiles: (files: File[]) => void): void {
  const { launchQueue } = window as { launchQueue?: LaunchQueue };
  launchQueue?.setConsumer(({ files = [] }) => {
    if (files.length) void Promise.all(files.map((handle) => handle.getFile())).then(onFiles);
  });
}
