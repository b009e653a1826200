// Conditions that limit records to those a member may see.
function ownHives(session) {
  return { text: 'keeper_id = $1', values: [session.memberId] };
}

function districtHives(session) {
  return { text: 'district = $1', values: [session.district] };
}

function scopeFor(session) {
  return session.role === 'inspector' ? districtHives(session) : ownHives(session);
}

module.exports = { scopeFor };
