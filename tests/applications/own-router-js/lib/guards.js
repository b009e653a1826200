'use strict';
const crypto = require('node:crypto');

async function member(ctx) {
  const token = ctx.cookie('sid');
  if (token) {
    const hash = crypto.createHash('sha256').update(token).digest('hex');
    const { rows } = await ctx.db.query('SELECT m.id, m.name, m.role FROM sessions s JOIN members m ON m.id = s.member_id WHERE s.token_hash = $1 AND s.ends_at > now()', [hash]);
    ctx.member = rows[0];
  }
  if (!ctx.member) ctx.redirect('/login');
}

function only(role) {
  return async (ctx) => {
    if (ctx.member.role !== role) ctx.fail(403, 'not yours');
  };
}

module.exports = { member, only };
