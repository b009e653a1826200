const mongoose = require('mongoose');

const keeperSchema = new mongoose.Schema({
  email: { type: String, required: true, unique: true, lowercase: true },
  name: String,
  role: { type: String, enum: ['keeper', 'office'], default: 'keeper' },
  passwordHash: { type: String, required: true },
});

module.exports = mongoose.model('Keeper', keeperSchema);
