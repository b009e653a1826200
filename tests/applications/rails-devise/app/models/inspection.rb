class Inspection < ApplicationRecord
  belongs_to :hive
end
