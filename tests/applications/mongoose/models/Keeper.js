const mongoose = require('mongoose');
const bcrypt = require('bcrypt');

const keeperSchema = new mongoose.Schema({
  name: { type: String, required: true },
  email: { type: String, required: true, unique: true },
  password: { type: String, required: true },
  phone: String,
  role: { type: String, enum: ['member', 'inspector', 'office'], default: 'member' },
  resetToken: String,
  resetExpires: Date,
}, { timestamps: true });

keeperSchema.pre('save', async function (next) {
  if (!this.isModified('password')) return next();
  this.password = await bcrypt.hash(this.password, 6); // weak: passwords/low-work-factor
  next();
});

keeperSchema.methods.matchPassword = function (entered) {
  return bcrypt.compare(entered, this.password);
};

module.exports = mongoose.model('Keeper', keeperSchema);
