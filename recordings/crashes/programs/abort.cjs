setTimeout(() => process.abort(), 50);
