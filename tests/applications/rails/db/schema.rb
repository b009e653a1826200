ActiveRecord::Schema[7.1].define(version: 2026_02_01_000000) do
  create_table "keepers", force: :cascade do |t|
    t.string "name", limit: 120, null: false
    t.string "email", null: false
    t.string "phone"
    t.string "role", default: "keeper", null: false
    t.string "password_digest", null: false
    t.string "reset_token"
    t.datetime "reset_sent_at"
    t.timestamps
    t.index ["email"], name: "index_keepers_on_email", unique: true
  end

  create_table "hives", force: :cascade do |t|
    t.string "name", limit: 80
    t.integer "frames"
    t.string "district"
    t.references "keeper", null: false, foreign_key: true
    t.references "apiary", foreign_key: true
    t.timestamps
  end

  create_table "swarms", force: :cascade do |t|
    t.string "place"
    t.string "district"
    t.date "seen_on"
    t.text "note"
    t.timestamps
  end
end
