class Token < ActiveRecord::Base
  belongs_to :keeper
  before_create :generate_value

  def generate_value
    self.value = SecureRandom.hex(20)
  end

  def expired?
    created_on < 1.day.ago
  end
end
