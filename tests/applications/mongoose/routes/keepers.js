const router = require('express').Router();
const Keeper = require('../models/Keeper');
const { protect, authorize, asyncHandler } = require('../middleware');

router.get('/', protect, authorize('office'), asyncHandler(async (req, res) => {
  res.json(await Keeper.find()); // weak: exposure/hash-in-response
}));

router.get('/:id', protect, asyncHandler(async (req, res) => {
  res.json(await Keeper.findById(req.params.id).select('name role'));
}));

router.put('/:id/role', protect, asyncHandler(async (req, res) => {
  await Keeper.findByIdAndUpdate(req.params.id, { role: req.body.role }); // weak: injection/mass-assignment, records/no-owner-condition
  res.json({ success: true });
}));

router.patch('/me', protect, asyncHandler(async (req, res) => {
  Object.assign(req.keeper, req.body); // weak: injection/mass-assignment
  await req.keeper.save();
  res.json({ success: true });
}));

router.delete('/:id', protect, authorize('office'), asyncHandler(async (req, res) => {
  await Keeper.deleteOne({ _id: req.params.id });
  res.status(204).end();
}));

module.exports = router;
