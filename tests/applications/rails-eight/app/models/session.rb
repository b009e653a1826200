class Session < ApplicationRecord
  belongs_to :keeper
end
