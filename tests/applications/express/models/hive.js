const mongoose = require('mongoose');

const hiveSchema = new mongoose.Schema({
  keeper: { type: mongoose.Schema.Types.ObjectId, ref: 'Keeper', required: true },
  name: { type: String, maxlength: 80 },
  frames: Number,
});

module.exports = mongoose.model('Hive', hiveSchema);
