class Swarm < ApplicationRecord
end
