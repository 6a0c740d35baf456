/** Facts and stores as docs/schemas/survey.json has them: what was not read is not there. */
export type Gpu = {
	id: string;
	model?: string;
	kind?: string;
	enabled?: boolean;
	memory?: number;
	interfaces?: string[];
	driver?: { version?: string; branch?: string; released?: string };
	decode?: string[];
	encode?: string[];
};

export type Volume = {
	id: string;
	mount: string;
	kind?: string;
	capacity?: number;
	free?: number;
	system?: boolean;
	removable?: boolean;
	attached?: boolean;
};

export type Facts = {
	system?: { platform?: string; version?: string };
	cpu?: { model?: string; cores?: number; threads?: number };
	memory?: { total?: number };
	gpus?: Gpu[];
	volumes?: Volume[];
	applications?: { id: string; version?: string; edition?: string; running?: boolean }[];
};

export type Store = { purpose: string; path: string; volume?: string; size?: number; unused?: number };
