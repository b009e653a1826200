class Hive < ApplicationRecord
  belongs_to :keeper
  belongs_to :apiary

  scope :named, ->(part) { where("name ILIKE ?", "%#{sanitize_sql_like(part)}%") }

  validates :name, presence: true, length: { maximum: 80 }
end
