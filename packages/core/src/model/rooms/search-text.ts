/** Two texts are the same to a search when people would read them the same: compatibility forms and case do not count. */
export const searchText = (text: string): string => text.normalize("NFKC").toLowerCase();
