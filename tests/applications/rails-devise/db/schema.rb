ActiveRecord::Schema[7.1].define(version: 1) do
  create_table "keepers" do |t|
    t.string "email", default: "", null: false
    t.string "encrypted_password", default: "", null: false
    t.string "name"
    t.string "phone"
    t.string "role", default: "member"
    t.index ["email"], name: "index_keepers_on_email", unique: true
  end
  create_table "hives" do |t|
    t.string "name"
    t.text "notes"
    t.bigint "keeper_id", null: false
  end
  create_table "inspections" do |t|
    t.bigint "hive_id"
    t.text "notes"
  end
  create_table "swarms" do |t|
    t.string "place"
  end
end
