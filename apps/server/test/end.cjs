const { rmSync } = require('node:fs');

module.exports = async () => {
  rmSync(process.env.JB_API_TEMPLATE, { recursive: true, force: true });
};
