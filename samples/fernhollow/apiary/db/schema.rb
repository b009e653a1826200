ActiveRecord::Schema[7.1].define(version: 2024_03_01_070000) do
  create_table "inspectors", force: :cascade do |t|
    t.string "email", limit: 160, null: false
    t.string "password_digest", limit: 60, null: false
    t.string "district", limit: 60
    t.boolean "approved", default: false, null: false
    t.datetime "created_at", null: false
  end

  create_table "planned_visits", force: :cascade do |t|
    t.integer "inspector_id", null: false
    t.integer "apiary_id", null: false
    t.date "planned_on", null: false
  end
end
