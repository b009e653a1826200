class Swarm < ApplicationRecord
  validates :place, presence: true
end
