/** Whether a file or folder is one that systems put among pictures, hidden or not: nobody means it, and nobody wants to hear of it. */
export const isSystemFile = (name: string): boolean => /^(?:\.|Thumbs\.db$|desktop\.ini$)/i.test(name);
