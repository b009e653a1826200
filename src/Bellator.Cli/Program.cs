using Bellator.Cli;

return CommandLine.Run(args);
