using ClearLexicon.Demo;
using ClearLexicon.Services;
using ClearLexicon.Storage;

namespace ClearLexicon.Services.Tests;

/// <summary>All services over a data folder of their own, deleted afterwards.</summary>
public sealed class House : IDisposable
{
    public House(string? root = null)
    {
        Folder = new DataFolder(root ?? Directory.CreateTempSubdirectory("house").FullName);
        Database = new Database(Folder.DatabaseFile);
        var clock = TimeProvider.System;
        Jobs = new Jobs(e => Failures.Add(e.ToString()));
        People = new People(Database, clock);
        Designs = new Designs(Database, clock);
        Readers = new Readers(Database, Folder, Designs, clock);
        Intake = new Intake(Database, Folder, Designs, Jobs, clock);
        Desk = new Desk(Database, Designs, clock);
        Filer = new Filer(Database, Folder, Desk, clock);
        Migrations = new Migrations(Database, Folder, Designs, Jobs, clock);
    }

    public List<string> Failures { get; } = [];
    public DataFolder Folder { get; }
    public Database Database { get; }
    public Jobs Jobs { get; }
    public People People { get; }
    public Designs Designs { get; }
    public Readers Readers { get; }
    public Intake Intake { get; }
    public Desk Desk { get; }
    public Filer Filer { get; }
    public Migrations Migrations { get; }

    public HarbourSeed Seed => new(Folder, People, Designs, Readers, Intake, Desk, Filer, Migrations);

    /// <summary>The harbour's designs, vocabularies and readers without samples.</summary>
    public House WithDesigns()
    {
        Assert.Null(Designs.CreateVocabulary("Berths", string.Join('\n', HarbourNames.Berths.Select(b => $"{b.Label}\t{string.Join('|', b.Variants)}\t{b.Code}")), "test").Problem);
        Assert.Null(Designs.CreateVocabulary("Vessel types", string.Join('\n', HarbourNames.VesselTypes), "test").Problem);
        foreach (var type in new[] { HarbourDesign.VesselCall, HarbourDesign.HarbourDues })
        {
            Assert.Null(Designs.Create(type.Name, "test").Problem);
            Assert.Null(Designs.Change(type.Code, "test", "test", _ => type).Problem);
            Assert.Null(Designs.Publish(type.Code, "test").Problem);
        }
        foreach (var design in PageDesigns.Known) Database.Write(c => ReaderStore.Save(c, HarbourReaders.Teach(design)));
        return this;
    }

    public void Dispose()
    {
        Database.Dispose();
        Directory.Delete(Folder.Root, recursive: true);
    }
}
