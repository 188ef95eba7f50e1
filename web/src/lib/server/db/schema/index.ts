/** All tables, for the migrations and for who writes them. */
export * from './names';
export * from './traces';
export * from './requests';
export * from './rollups';
export * from './counters';
export * from './failures';
export * from './evidence';
export * from './profiles';
export * from './server';
export * from './cases';
export * from './pages';
export * from './watches';
