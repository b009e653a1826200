ActiveRecord::Schema[8.0].define(version: 2026_03_01_000000) do
  create_table "hives", force: :cascade do |t|
    t.string "name", null: false
    t.text "note"
    t.integer "keeper_id", null: false
    t.index ["keeper_id"], name: "index_hives_on_keeper_id"
  end

  create_table "keepers", force: :cascade do |t|
    t.string "email_address", null: false
    t.string "name"
    t.string "password_digest", null: false
    t.boolean "admin", default: false, null: false
    t.index ["email_address"], name: "index_keepers_on_email_address", unique: true
  end

  create_table "sessions", force: :cascade do |t|
    t.integer "keeper_id", null: false
    t.string "ip_address"
    t.string "user_agent"
    t.datetime "created_at", null: false
  end

  add_foreign_key "hives", "keepers"
  add_foreign_key "sessions", "keepers"
end
