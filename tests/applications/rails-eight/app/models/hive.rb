class Hive < ApplicationRecord
  belongs_to :keeper
  scope :like, ->(part) { where("name LIKE ?", "%#{sanitize_sql_like(part)}%") }
  scope :sorted, ->(column) { order(column) }
end
