class Hive < ApplicationRecord
  belongs_to :keeper
  has_many :inspections
end
