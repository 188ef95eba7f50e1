#!/usr/bin/env node
// The entry of the command line; the package bundles it.
import { main } from './main';

const code = await main(process.argv.slice(2));
if (code !== null) process.exitCode = code;
