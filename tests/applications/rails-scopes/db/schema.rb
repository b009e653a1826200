ActiveRecord::Schema[7.1].define(version: 1) do
  create_table "keepers" do |t|
    t.string "email"
    t.string "password_digest"
  end
  create_table "hives" do |t|
    t.string "name"
    t.string "note"
    t.integer "keeper_id"
  end
end
