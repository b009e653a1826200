class Hive < ApplicationRecord
  belongs_to :keeper
  scope :search, ->(term) { where("name LIKE '%#{term}%'") } # weak: injection/sql
  def self.arranged(by)
    order(Arel.sql(by.presence || "name")) # weak: injection/sql
  end
  def self.arranged2(by)
    order(Arel.sql(by)) # weak: injection/sql
  end
  def self.arranged3(by)
    where("name = '#{by}'") # weak: injection/sql
  end
  def self.sorted(by)
    order(%w[name note].include?(by) ? by : "name")
  end
end
