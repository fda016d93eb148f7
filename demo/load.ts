export async function loadDemo(_address: string, _say: (line: string) => void): Promise<void> {}
