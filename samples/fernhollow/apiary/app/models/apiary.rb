class Apiary < ApplicationRecord
  def self.within(district)
    where(district: district)
  end

  # The order comes from the head of the table that was clicked.
  def self.arranged(column)
    order("#{column} ASC")
  end
end
