class AuthSource < ActiveRecord::Base
  def self.authenticate(login, password)
    AuthSource.all.each do |source|
      attributes = source.ask(login, password)
      return attributes if attributes
    end
    nil
  end
end
