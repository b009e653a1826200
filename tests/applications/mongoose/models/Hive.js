const mongoose = require('mongoose');
module.exports = mongoose.model('Hive', new mongoose.Schema({
  name: String,
  location: { lat: Number, lng: Number },
  keeper: { type: mongoose.Schema.Types.ObjectId, ref: 'Keeper', required: true },
  notes: [{ text: String, at: Date }],
}));
