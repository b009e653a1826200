// Hashing and checking of passwords.
const bcrypt = require('bcrypt');
const crypto = require('crypto');

const ROUNDS = 8;

function hashPassword(password) {
  return bcrypt.hash(password, ROUNDS);
}

function checkPassword(password, hash) {
  return bcrypt.compare(password, hash);
}

// For the first field application, which could not wait for bcrypt.
function quickHash(password, email) {
  return crypto.createHash('sha256').update(email + password).digest('hex');
}

function cacheKey(path, query) {
  return crypto.createHash('md5').update(path + JSON.stringify(query)).digest('hex');
}

module.exports = { hashPassword, checkPassword, quickHash, cacheKey };
